// How the editor looks: the page's own type and colours.
import { EditorView } from '@codemirror/view'

export const looks = EditorView.theme({
  '&': { color: 'inherit', backgroundColor: 'transparent' },
  '&.cm-focused': { outline: 'none' },
  '.cm-scroller': { fontFamily: 'inherit', lineHeight: 'inherit' },
  '.cm-content': { padding: '1px 0 3px', caretColor: 'var(--color-base-content)' },
  '.cm-content:focus-visible': { outline: '2px solid var(--color-primary)', outlineOffset: '4px' },
  '.cm-line': { padding: '0' },
  '.cm-placeholder': { color: 'var(--quiet)' },
  '.cm-selectionBackground, ::selection': { backgroundColor: 'var(--mark)' },
  '.cm-lintRange-error': {
    backgroundImage: 'none',
    textDecoration: 'underline wavy 1.5px var(--color-error)',
    textUnderlineOffset: '2px',
  },
  '.cm-tooltip': {
    border: '1px solid var(--color-base-300)',
    backgroundColor: 'var(--color-base-100)',
    color: 'var(--color-base-content)',
    boxShadow: '0 4px 10px rgb(0 0 0 / 0.12)',
  },
  '.cm-diagnostic': { borderLeft: '3px solid var(--color-error)', fontFamily: 'var(--font-sans)' },
  '.cm-tooltip.cm-tooltip-autocomplete > ul': { fontFamily: 'inherit', maxHeight: '220px', minWidth: '280px' },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li': {
    padding: '1px 8px',
    lineHeight: '22px',
    borderLeft: '2px solid transparent',
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected]': {
    borderLeftColor: 'var(--color-primary)',
    backgroundColor: 'var(--color-base-200)',
    color: 'inherit',
  },
  '.cm-completionLabel': { fontSize: '13px', fontWeight: '600' },
  '.cm-completionDetail': {
    color: 'var(--quiet)',
    fontFamily: 'var(--font-sans)',
    fontStyle: 'normal',
    fontSize: '12px',
    marginLeft: '12px',
  },
})

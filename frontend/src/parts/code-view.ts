// The editor package's view of a text, told anew what it shows whenever that changes: errors underlined at their place,
// completion, undo.
import {
  acceptCompletion,
  autocompletion,
  closeCompletion,
  completionKeymap,
  completionStatus,
  startCompletion,
} from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
import { setDiagnostics } from '@codemirror/lint'
import { Annotation, Compartment, EditorState, type Extension } from '@codemirror/state'
import { EditorView, keymap, placeholder } from '@codemirror/view'
import type { Completion, Option } from '../thinking/completion'
import type { CodeProps } from './code-box'
import { highlighting, languages } from './code-languages'
import { looks } from './code-looks'

const LONGEST = 1_000_000
// A change that was not made in the editor.
const given = Annotation.define<boolean>()

export class CodeView {
  private readonly view: EditorView
  private readonly about = new Compartment()
  // What was typed since text and value were the same.
  private readonly typed: string[] = []
  private shown = ''
  // Whether nothing could be offered for the last letters: what is offered may not have been fetched yet.
  private unmet = false

  constructor(
    parent: HTMLElement,
    private props: CodeProps,
  ) {
    this.view = new EditorView({
      parent,
      state: EditorState.create({ doc: props.value, extensions: this.extensions() }),
    })
    this.show(props)
  }

  show(props: CodeProps) {
    const another = props.offer !== this.props.offer
    this.props = props
    if (another && this.unmet && this.view.hasFocus) startCompletion(this.view)
    const { value, wrong, language } = props
    const now = this.view.state.doc.toString()
    if (now === value) this.typed.length = 0
    // An answer to letters that were typed over meanwhile is none to follow.
    else if (!this.typed.includes(value))
      this.view.dispatch({ changes: { from: 0, to: now.length, insert: value }, annotations: given.of(true) })
    const shown = JSON.stringify([props.label, props.placeholder, props.invalid, wrong])
    if (shown === this.shown) return
    this.shown = shown
    this.view.dispatch({ effects: this.about.reconfigure(about(props)) })
    // What is wrong with JSON the editor tells by itself.
    if (language === 'json') return
    const to = Math.min(wrong?.to ?? 0, this.view.state.doc.length)
    const marks = wrong && wrong.from <= to ? [{ ...wrong, to, severity: 'error' as const }] : []
    this.view.dispatch(setDiagnostics(this.view.state, marks))
  }

  focus() {
    this.view.focus()
  }

  select(from: number, to: number) {
    this.view.dispatch({ selection: { anchor: from, head: to }, scrollIntoView: true })
    this.view.focus()
  }

  destroy() {
    this.view.destroy()
  }

  private leave(): boolean {
    // Whatever stands there next is to be followed.
    this.typed.length = 0
    this.props.onEscape?.()
    this.view.contentDOM.blur()
    return true
  }

  // Whoever is quicker than the list of offers takes what would stand first in it.
  private takeFirst(view: EditorView): boolean {
    if (completionStatus(view.state) !== 'pending') return false
    const found = this.props.offer?.(view.state.doc.toString(), view.state.selection.main.head)
    const first = found?.options[0]
    if (!found || !first) return false
    closeCompletion(view)
    view.dispatch({
      changes: { from: found.from, to: found.to, insert: first.insert },
      selection: { anchor: found.from + first.insert.length },
      userEvent: 'input.complete',
    })
    return true
  }

  private extensions(): Extension {
    return [
      EditorView.cspNonce.of(document.querySelector<HTMLMetaElement>('meta[name=style-nonce]')?.nonce ?? ''),
      keymap.of([
        { key: 'Tab', run: (view) => acceptCompletion(view) || this.takeFirst(view) },
        { key: 'Enter', run: (view) => acceptCompletion(view) || this.takeFirst(view) },
        ...Object.keys(this.props.keys ?? {}).map((key) => ({ key, run: () => this.props.keys?.[key]?.() ?? false })),
        { key: 'Ctrl-Space', run: startCompletion },
        ...completionKeymap,
        { key: 'Escape', run: () => this.leave() },
        ...historyKeymap,
        ...defaultKeymap,
      ]),
      history(),
      EditorView.lineWrapping,
      EditorState.changeFilter.of((change) => change.newDoc.length <= (this.props.most ?? LONGEST)),
      EditorView.updateListener.of((update) => {
        if (!update.docChanged || update.transactions.some((one) => one.annotation(given))) return
        const text = update.state.doc.toString()
        this.typed.push(text)
        this.props.onChange(text)
      }),
      EditorView.domEventHandlers({ blur: () => this.props.onBlur?.() }),
      autocompletion({
        override: [
          (context) => {
            const found = offers(this.props.offer?.(context.state.doc.toString(), context.pos) ?? null)
            this.unmet = found === null
            return found
          },
        ],
        icons: false,
        activateOnTypingDelay: 0,
        interactionDelay: 0,
      }),
      EditorState.phrases.of({ Completions: 'What may come next' }),
      this.about.of([]),
      languages[this.props.language],
      highlighting,
      looks,
    ]
  }
}

const about = ({ label, invalid = false, placeholder: hint = '' }: CodeProps): Extension => [
  EditorView.contentAttributes.of({
    ...{ 'aria-label': label, 'aria-invalid': String(invalid) },
    ...{ spellcheck: 'false', dir: 'auto' },
  }),
  placeholder(hint),
]

const offers = (found: Completion | null) =>
  found && { from: found.from, to: found.to, options: found.options.map(shown), filter: false }

const shown = ({ insert, note }: Option) => ({ label: insert, detail: note })

// What the editor knows of each language: enough to tell names, texts, numbers and comments apart.
import { json, jsonParseLinter } from '@codemirror/lang-json'
import { HighlightStyle, StreamLanguage, syntaxHighlighting, type StreamParser } from '@codemirror/language'
import { linter } from '@codemirror/lint'
import type { Extension } from '@codemirror/state'
import { tags } from '@lezer/highlight'
import type { CodeProps } from './code-box'

// Each with what it is; the first that fits counts.
const reader = (rules: readonly (readonly [RegExp, string | null])[]): StreamParser<unknown> => ({
  token(stream) {
    for (const [pattern, name] of rules) if (stream.match(pattern)) return name
    stream.next()
    return null
  },
})

const NUMBER = [/^\d+(\.\d+)?/, 'number'] as const

// docs/chains.md, "Notation".
const notation = reader([
  [/^#.*/, 'comment'],
  [/^"(?:[^"\\]|\\.)*"?/, 'string'],
  [/^\/(?:[^/\\]|\\.)*\/?/, 'string'],
  [/^@[\w:-]+/, 'atom'],
  NUMBER,
  [/^[\p{L}_][\p{L}\p{N}_]*(?=\s*(?:\(|>|#|$))/u, 'keyword'],
  [/^[\p{L}\p{N}_-]+/u, null],
])

const formula = reader([[/^"[^"]*"?/, 'string'], NUMBER, [/^[\p{L}_][\p{L}\p{N}_.]*/u, 'keyword']])

export const languages: Record<CodeProps['language'], Extension> = {
  notation: StreamLanguage.define(notation),
  formula: StreamLanguage.define(formula),
  json: [json(), linter(jsonParseLinter(), { delay: 300 })],
}

export const highlighting = syntaxHighlighting(
  HighlightStyle.define([
    { tag: tags.comment, color: 'var(--quiet)' },
    { tag: [tags.string, tags.atom], color: 'var(--meaning)' },
    { tag: [tags.number, tags.bool, tags.null], color: 'var(--color-secondary)' },
    { tag: [tags.keyword, tags.propertyName], fontWeight: '600' },
  ]),
)

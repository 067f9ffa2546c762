// What a suggestion shows of itself, and what its sources are called.
import type { Completion, Gathering, SuggestionsTold } from '../api/completions'
import type { RankerDocument } from '../api/queries'
import { countText } from './figures'
import { startOf } from './knobs'
import type { Piece } from './marks'

export type Completions = Required<NonNullable<RankerDocument['completions']>>
export type SuggestionSource = Completions['sources'][number]
export type SourceKind = 'values' | 'phrases' | 'asked'

// A suggestion with the letters that were typed; places count code points.
export function piecesOf(one: Pick<Completion, 'text' | 'start' | 'end'>): Piece[] {
  const signs = [...one.text]
  return [
    { text: signs.slice(0, one.start).join(''), marked: false },
    { text: signs.slice(one.start, one.end).join(''), marked: true },
    { text: signs.slice(one.end).join(''), marked: false },
  ].filter((piece) => piece.text !== '')
}

export const kindOf = (source: SuggestionSource): SourceKind =>
  source.values ? 'values' : source.phrases ? 'phrases' : 'asked'

// Of which part of the declared knobs a source is.
export const PART_OF = { values: 'FieldValues', phrases: 'FieldPhrases', asked: 'PastQueries' } as const

export function sourceText(source: SuggestionSource | undefined): string {
  if (!source) return ''
  return kindOf(source) === 'asked' ? 'past queries' : `${kindOf(source)} of ${source.values ?? source.phrases ?? ''}`
}

// A source with all that its kind has, and nothing of another one's.
export const sourceOf = (kind: SourceKind, field: string): SuggestionSource =>
  kind === 'asked'
    ? { ...startOf('PastQueries'), asked: 1 }
    : { ...startOf(PART_OF[kind]), [kind]: field, ...(kind === 'values' ? { by: null } : {}) }

export const COMPLETIONS = {
  sources: [],
  ...startOf('Completions'),
  language: null,
  withhold: null,
} as unknown as Completions

// The usual sources as the server says them, with everything that it leaves out.
export const usualSources = (told: SuggestionsTold): SuggestionSource[] =>
  (told.usual as SuggestionSource[]).map((one) => ({ ...sourceOf(kindOf(one), ''), ...one }))

export const toldText = (told: SuggestionsTold): string =>
  [
    `${countText(told.suggestions)} suggestions`,
    `${countText(told.entries)} places to begin at`,
    bytesText(told.bytes),
    ...(told.too_long ? [`${countText(told.too_long)} longer texts left out`] : []),
    ...(told.withheld ? [`${countText(told.withheld)} withheld`] : []),
    ...(told.read > 0 && told.read < told.records ? [`phrases of the first ${countText(told.read)} records`] : []),
  ].join(' · ')

export const bytesText = (bytes: number): string =>
  bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`

// How far the gathering of suggestions is, in words and for a bar.
export const gatheringText = (one: Gathering): string =>
  `Gathering suggestions: ${one.doing || 'beginning'}${one.of > 0 ? `, step ${one.done + 1} of ${one.of}` : ''}, ${Math.round(one.elapsed_s)} s so far.`

export const gatheringShare = (one: Gathering) => (one.of > 0 ? { value: one.done, max: one.of } : {})

// The suggestion that a key of the combobox goes to, −1 for what was typed itself; null where the key is none of its.
export function optionAfter(key: string, at: number, options: number): number | null {
  if (options === 0) return null
  if (key === 'ArrowDown') return at + 1 >= options ? -1 : at + 1
  if (key === 'ArrowUp') return at < 0 ? options - 1 : at - 1
  return null
}

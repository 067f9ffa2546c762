// What is said of a query that is typed letter by letter.
import type { LetterPlayed, QueryTyped, SetTyped } from '../api/letters'

const GRAPHEMES = new Intl.Segmenter(undefined, { granularity: 'grapheme' })

// The letters of a query, as a person counts them.
export const lettersOf = (query: string): string[] => Array.from(GRAPHEMES.segment(query), ({ segment }) => segment)

// The first letters of a query; all of it where `at` is none of them.
export function typedAt(query: string, at: number | null): string {
  const letters = lettersOf(query)
  return at === null || at < 1 || at >= letters.length ? query : letters.slice(0, at).join('')
}

// Which letter is in view, counted from 1: the last one where the address says nothing that makes sense.
export function letterAt(param: string | null, count: number): number {
  const at = Number(param)
  return Number.isInteger(at) && at >= 1 && at < count ? at : count
}

// When a wanted record arrives among the first ten, in words.
export function arrivalText(letters: readonly LetterPlayed[], wanted: string): string {
  const among = letters.findIndex((one) => one.rank !== null && one.rank <= 10)
  if (among < 0) {
    const seen = letters.findIndex((one) => one.rank !== null)
    return seen < 0
      ? `${wanted} is not found by any letter.`
      : `${wanted} never comes among the first ten; by letter ${seen + 1} it is at ${letters[seen]?.rank}.`
  }
  const top = letters.findIndex((one) => one.rank === 1)
  const arrives = `${wanted} is among the first ten from letter ${among + 1} on`
  const leaves = letters.findIndex((one, i) => i > among && (one.rank === null || one.rank > 10))
  const again = leaves < 0 ? '' : `, but not at letter ${leaves + 1}`
  return `${arrives}${again}${top < 0 ? '' : `, and first at letter ${top + 1}`}.`
}

export const isFound = (one: Pick<QueryTyped, 'of'>, letters: number) => letters <= one.of

export const lettersText = (one: Pick<QueryTyped, 'of'>, letters: number | null) =>
  letters === null ? '' : isFound(one, letters) ? String(letters) : 'never'

// Those that moved most stand first; then those that are never found, and those that take most letters.
export function byLetters(queries: readonly QueryTyped[]): QueryTyped[] {
  const moved = (one: QueryTyped) => (one.before === null ? 0 : one.letters - one.before)
  return queries.toSorted(
    (a, b) =>
      Math.abs(moved(b)) - Math.abs(moved(a)) ||
      Number(isFound(a, a.letters)) - Number(isFound(b, b.letters)) ||
      b.letters - a.letters ||
      a.query.localeCompare(b.query),
  )
}

export type ByLetter = { letter: number; share: number; whose: string }

// The share of queries found by each letter as points of lines, which begin at nothing typed.
export function pointsByLetter(told: SetTyped, names: readonly [string, string]): ByLetter[] {
  const line = (shares: readonly number[], whose: string) =>
    [0, ...shares].map((share, letter) => ({ letter, share, whose }))
  return [...line(told.by_letter, names[0]), ...(told.before_by_letter ? line(told.before_by_letter, names[1]) : [])]
}

export const lettersTable = (told: SetTyped): (string | number)[][] => [
  ['query_id', 'query', 'letters', 'of', 'keystrokes', 'letters if unjudged were relevant', 'letters before'],
  ...told.queries.map((one) => [
    one.query_id,
    one.query,
    one.letters,
    one.of,
    one.keystrokes,
    one.best,
    one.before ?? '',
  ]),
]

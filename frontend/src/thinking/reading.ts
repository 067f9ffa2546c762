// How well pages were read, in words and figures.
import { valueText } from './records'
import type { Stretch } from './marks'

type Doubted = { field: string; doubts: readonly { start: number; end: number }[] }

// What is marked on a page: its doubtful words, in the field that they are of.
export const doubtsOf = (page: Doubted): Record<string, Stretch[]> => ({
  [page.field]: page.doubts.map(({ start, end }) => [start, end] as const),
})

// Whether a text is the one that the doubts are of: each word stands in it where it stood.
export function areDoubtsOf(page: { doubts: readonly { start: number; end: number; word: string }[] }, text: string) {
  const points = Array.from(text)
  return page.doubts.every(({ start, end, word }) => points.slice(start, end).join('') === word)
}

// How many of its words are doubtful, in hundredths; a few are not none.
export function worstShare({ doubtful, words }: { doubtful: number; words: number }): string {
  if (doubtful === 0 || words === 0) return '0 %'
  const share = Math.round((100 * doubtful) / words)
  return share === 0 ? '< 1 %' : `${share} %`
}

export const sureText = (confidence: number): string => `${Math.round(100 * confidence)} %`

type Field = { name: string; role?: string | null }
type Found = { key: string; field_values: Record<string, unknown>; marks: Record<string, Stretch[]> }
export type PageFound = {
  key: string
  name: string
  picture: string
  number: number | null
  hits: number
  marks: Record<string, Stretch[]>
  values: Record<string, unknown>
}

// The field that says what thing a page is of: what the list shows one of, else the one that scanned pages come with.
export function thingField(fields: readonly Field[], onePer: string | null): string | null {
  const wanted = onePer ?? 'thing'
  return fields.some((field) => field.name === wanted) ? wanted : null
}

// Pages of a thing in their order, with how many matches are marked in the text of each.
export function pagesOfThing(results: readonly Found[], fields: readonly Field[]): PageFound[] {
  const valueOf = (values: Record<string, unknown>, role: string) =>
    valueText(values[fields.find((one) => one.role === role)?.name ?? ''])
  const pages = results.map(({ key, field_values: values, marks }) => {
    const field = decodeURIComponent(valueOf(values, 'places').split(' ')[0] ?? '')
    return {
      key,
      name: valueOf(values, 'title') || key,
      picture: valueOf(values, 'picture'),
      number: typeof values.page === 'number' ? values.page : null,
      hits: marks[field]?.length ?? 0,
      marks,
      values,
    }
  })
  return pages.filter((one) => one.hits > 0).sort((one, other) => (one.number ?? Infinity) - (other.number ?? Infinity))
}

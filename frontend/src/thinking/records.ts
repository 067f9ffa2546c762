// How a record is shown wherever it is listed: as the collection's display says.
import type { Collection } from '../api/queries'

export type ShownField = { field: string; length: 'line' | 'short' | 'whole' }
export type Shown = { title: string | null; picture: string | null; blocks: ShownField[]; line: string[] }

// Fields with room of their own, in their order, and those that share the line of small facts.
export function shownFields(collection: Pick<Collection, 'display'>): Shown {
  const { title, picture, fields = [] } = collection.display
  return {
    title: title ?? null,
    picture: picture ?? null,
    blocks: fields.flatMap(({ field, length = 'line' }) => (length === 'line' ? [] : [{ field, length }])),
    line: fields.filter(({ length = 'line' }) => length === 'line').map(({ field }) => field),
  }
}

// The field worth reading first: the longest text that is shown, else the title, else any.
export function mainField(collection: Collection): string {
  const shown = shownFields(collection)
  const other = collection.fields.find((field) => field.role !== 'key')
  return shown.blocks[0]?.field ?? shown.title ?? other?.name ?? ''
}

export function titleOf(shown: Shown, key: string, values: Record<string, unknown>): string {
  return (shown.title === null ? '' : valueText(values[shown.title])) || key
}

// A value as one text, several values laid end to end as the server counts its marks: one apart.
export function valueText(value: unknown): string {
  if (value === null || value === undefined) return ''
  if (Array.isArray(value)) return value.map(valueText).join('\n')
  return String(value)
}

// Fields whose values can be counted and narrowed by.
export const countable = (collection: Pick<Collection, 'fields'>) =>
  collection.fields.filter((field) => field.role !== 'key' && field.role !== 'places')

// Whether records of a collection are pages that a machine read.
export const hasPages = (collection: Pick<Collection, 'fields'>) =>
  collection.fields.some((field) => field.role === 'places')

const PLACES = /^\S+ \d+ [0-9a-f]{8} [\d.]+ [\d.]+ [0-9a-f]{64}$/

// Whether a record is such a page: one of its values says where words stand.
export const isPage = (values: Record<string, unknown>) =>
  Object.values(values).some((one) => PLACES.test(valueText(one)))

// What a record says of the places of its words, in words: the letters that they are of, and the size of the page.
export function placesText(value: unknown): string {
  const [field, letters, , width, height, digest] = valueText(value).split(' ')
  if (!field || !digest) return valueText(value)
  return `places of the ${Number(letters).toLocaleString('en')} letters of ${decodeURIComponent(field)}, on a page of ${width} × ${height}`
}

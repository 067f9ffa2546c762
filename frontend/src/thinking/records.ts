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

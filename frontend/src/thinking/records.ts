// How a record is shown until somebody says otherwise: a title, a long text, and the rest in small.
import type { Collection } from '../api/queries'

export type Shown = { title: string; body: string | null; small: string[] }

export function shownFields(collection: Collection): Shown {
  const names = collection.fields.filter((field) => !field.is_key).map((field) => field.name)
  const texts = collection.fields.filter((field) => field.kind === 'text' && !field.is_key).map((field) => field.name)
  const title = texts.find((name) => ['title', 'name', 'label'].includes(name)) ?? texts[0] ?? names[0] ?? ''
  const body =
    texts.find((name) => ['description', 'text', 'body', 'content'].includes(name)) ??
    texts.find((name) => name !== title) ??
    null
  return { title, body, small: names.filter((name) => name !== title && name !== body) }
}

// A value as one text, several values laid end to end as the server counts its marks: one apart.
export function valueText(value: unknown): string {
  if (value === null || value === undefined) return ''
  if (Array.isArray(value)) return value.map(valueText).join('\n')
  return String(value)
}

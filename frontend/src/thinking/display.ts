// How a record is shown, while it is designed: lengths, order, records to try it on.
import type { Display } from '../api/records'

export type Length = 'hidden' | 'line' | 'short' | 'whole'
export const LENGTHS: Length[] = ['hidden', 'line', 'short', 'whole']

export function lengthOf(display: Display, name: string): Length {
  const shown = (display.fields ?? []).find((one) => one.field === name)
  return shown ? (shown.length ?? 'line') : 'hidden'
}

export function withLength(display: Display, name: string, length: Length): Display {
  const fields = display.fields ?? []
  if (length === 'hidden') return { ...display, fields: fields.filter((one) => one.field !== name) }
  if (fields.some((one) => one.field === name)) {
    return { ...display, fields: fields.map((one) => (one.field === name ? { ...one, length } : one)) }
  }
  return { ...display, fields: [...fields, { field: name, length }] }
}

export function moved(display: Display, from: number, by: -1 | 1): Display {
  const fields = [...(display.fields ?? [])]
  const one = fields[from]
  const other = fields[from + by]
  if (!one || !other) return display
  fields[from] = other
  fields[from + by] = one
  return { ...display, fields }
}

// Where to look: the beginning, the middle and the end, as far as they differ.
export function sampleOffsets(records: number, size: number): number[] {
  return [...new Set([0, Math.max(0, Math.floor((records - size) / 2)), Math.max(0, records - size)])]
}

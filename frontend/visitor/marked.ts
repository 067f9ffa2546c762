// Texts with marks, cut where their stretches say: places count UTF-16 units, as a script's strings do.
import type { Row, Stretch } from './endpoint'

export type Piece = { text: string; marked: boolean }

export function pieces(text: string, marks: readonly Stretch[]): Piece[] {
  const found: Piece[] = []
  let at = 0
  for (const [start, end] of marks) {
    if (start < at || end <= start || end > text.length) continue
    if (start > at) found.push({ text: text.slice(at, start), marked: false })
    found.push({ text: text.slice(start, end), marked: true })
    at = end
  }
  if (at < text.length) found.push({ text: text.slice(at), marked: false })
  return found
}

// A field's values laid end to end, one unit apart, as its marks count them.
export const textOf = (value: unknown): string =>
  (Array.isArray(value) ? value : value === null || value === undefined ? [] : [value]).map(String).join('\n')

// Where a long text is shown in short: its best passage, else its beginning.
const SHORT = 240

export function shortly(row: Row, field: string): { text: string; marks: Stretch[]; before: boolean; after: boolean } {
  const whole = textOf(row.fields[field])
  const passage = row.passages.find((one) => one.field === field)
  if (passage)
    return {
      text: passage.text,
      marks: passage.marks,
      before: passage.start > 0,
      after: passage.end < whole.length,
    }
  const marks = row.marks[field] ?? []
  if (whole.length <= SHORT) return { text: whole, marks, before: false, after: false }
  const cut = whole.lastIndexOf(' ', SHORT)
  let end = cut > SHORT / 2 ? cut : SHORT
  // Not between the halves of a pair.
  if (/[\ud800-\udbff]/.test(whole.charAt(end - 1))) end -= 1
  return { text: whole.slice(0, end), marks: marks.filter(([, last]) => last <= end), before: false, after: true }
}

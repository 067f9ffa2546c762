// Cuts a text into marked and plain pieces. The server counts code points, JavaScript UTF-16 units.
export type Stretch = readonly [start: number, end: number]
export type Piece = { text: string; marked: boolean }

export function pieces(text: string, marks: readonly Stretch[]): Piece[] {
  const points = Array.from(text)
  const made: Piece[] = []
  let at = 0
  for (const [start, end] of marks) {
    if (start > at) made.push({ text: points.slice(at, start).join(''), marked: false })
    made.push({ text: points.slice(Math.max(start, at), end).join(''), marked: true })
    at = Math.max(at, end)
  }
  if (at < points.length) made.push({ text: points.slice(at).join(''), marked: false })
  return made.filter((piece) => piece.text !== '')
}

// So much of a long text is shown in a list, in code points.
export const SHORT = 120

// Of a field that the query's words are found in.
export type Passage = { field: string; start: number; end: number; text: string; marks: readonly Stretch[] }

// What a list shows of a text: all of a short one, the passage that the server found, else its beginning.
export function shortened(text: string, marks: readonly Stretch[], passage: Passage | undefined): Piece[] {
  const points = Array.from(text)
  if (points.length <= SHORT) return pieces(text, marks)
  const { start, end } = passage ?? { start: 0, end: beginning(points) }
  const shown = passage ? pieces(passage.text, passage.marks) : pieces(points.slice(0, end).join(''), [])
  return [
    ...(start > 0 ? [{ text: '… ', marked: false }] : []),
    ...shown,
    ...(end < points.length ? [{ text: '\u00a0…', marked: false }] : []),
  ]
}

// Where a beginning ends, at a blank if there is one in its second half.
function beginning(points: string[]): number {
  for (let end = SHORT; end > SHORT / 2; end--) if (points[end] === ' ') return end
  return SHORT
}

// Several values of a field, laid end to end, as a list on one line.
export const listed = (made: Piece[]) => made.map((piece) => ({ ...piece, text: piece.text.replaceAll('\n', ', ') }))

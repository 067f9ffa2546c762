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

// The part of a long text worth showing: around the densest marks, cut at blanks, marks moved along.
export function snippet(text: string, marks: readonly Stretch[], length: number): { pieces: Piece[]; cut: boolean } {
  const points = Array.from(text)
  if (points.length <= length) return { pieces: pieces(text, marks), cut: false }
  let best = 0
  let most = 0
  for (const [start] of marks) {
    const inside = marks.filter((mark) => mark[0] >= start && mark[1] <= start + length * 0.8).length
    if (inside > most) [best, most] = [start, inside]
  }
  // A little of what stands before the first mark, from the beginning of a word.
  let first = best < length * 0.6 ? 0 : best - Math.round(length * 0.15)
  while (first > 0 && points[first - 1] !== ' ') first--
  let last = Math.min(points.length, first + length)
  while (last < points.length && last > first + length / 2 && points[last] !== ' ') last--
  const shown = points.slice(first, last).join('')
  const moved = marks
    .filter(([start, end]) => end > first && start < last)
    .map(([start, end]) => [Math.max(start - first, 0), Math.min(end, last) - first] as const)
  const made = pieces(shown, moved)
  if (first > 0) made.unshift({ text: '… ', marked: false })
  if (last < points.length) made.push({ text: '\u00a0…', marked: false })
  return { pieces: made, cut: true }
}

// Several values of a field, laid end to end, as a list on one line.
export const listed = (made: Piece[]) => made.map((piece) => ({ ...piece, text: piece.text.replaceAll('\n', ', ') }))

// What is wrong with a text, and where: from, to in UTF-16 units, as all places in this page's texts.
export type Wrong = { from: number; to: number; message: string }

// From a place in notation (line and column, in code points) to offsets in a JavaScript string.
export function offsetsOf(source: string, place: { line: number; column: number; length: number }): [number, number] {
  const lines = source.split('\n')
  const before = lines.slice(0, place.line - 1).reduce((sum, line) => sum + line.length + 1, 0)
  const rest = Array.from(source.slice(before))
  const start = before + rest.slice(0, place.column - 1).join('').length
  const end = start + rest.slice(place.column - 1, place.column - 1 + place.length).join('').length
  return [start, end]
}

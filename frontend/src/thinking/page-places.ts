// Where the letters of a page's text stand on its picture. Letters are counted in code points, as the server does.
import type { Stretch } from './marks'

export type Rectangle = { x: number; y: number; width: number; height: number }
export type Place = { start: number; end: number; box: Rectangle; line: number; sure: number | null }
// A stretch of the text that a query matched, or a word that somebody chose, with the boxes of its letters.
export type Hit = { start: number; end: number; boxes: Rectangle[] }

type Told = readonly [number, number, number, number, number, number, number, number | null]

export const placesOf = (told: readonly Told[]): Place[] =>
  told.map(([start, end, x, y, width, height, line, sure]) => ({
    start,
    end,
    box: { x, y, width, height },
    line,
    sure,
  }))

export const hitOf = (places: readonly Place[], [start, end]: Stretch): Hit => ({
  start,
  end,
  boxes: places.filter((one) => one.start < end && start < one.end).map((one) => one.box),
})

// The smallest rectangle around all of a hit, null where it has no box.
export function around(boxes: readonly Rectangle[]): Rectangle | null {
  if (boxes.length === 0) return null
  const x = Math.min(...boxes.map((one) => one.x))
  const y = Math.min(...boxes.map((one) => one.y))
  return {
    x,
    y,
    width: Math.max(...boxes.map((one) => one.x + one.width)) - x,
    height: Math.max(...boxes.map((one) => one.y + one.height)) - y,
  }
}

// What is looked at where a hit is shown: it with enough of the page around it to read on, within the page.
export function lookedAt(hit: Rectangle, page: { width: number; height: number }): Rectangle {
  const width = Math.min(page.width, Math.max(hit.width * 1.5, page.width / 2))
  const height = Math.min(page.height, Math.max(hit.height * 3, page.height / 5))
  const within = (middle: number, size: number, whole: number) => Math.max(0, Math.min(whole - size, middle - size / 2))
  return {
    x: within(hit.x + hit.width / 2, width, page.width),
    y: within(hit.y + hit.height / 2, height, page.height),
    width,
    height,
  }
}

// The place that a point lies in, the smallest where several do.
export function placeAt(places: readonly Place[], x: number, y: number): Place | null {
  const found = places.filter(
    ({ box }) => x >= box.x && x <= box.x + box.width && y >= box.y && y <= box.y + box.height,
  )
  return found.sort((one, other) => area(one) - area(other))[0] ?? null
}

const area = ({ box }: Place) => box.width * box.height

// The whole word that a place is of: a parted one has several places.
export function wordOf(points: readonly string[], place: Place): Stretch {
  let { start, end } = place
  while (start > 0 && !isBlank(points[start - 1])) start -= 1
  while (end < points.length && !isBlank(points[end])) end += 1
  return [start, end]
}

// The word after (by 1) or before (by -1) a stretch, the first or last where there is none; null for no words.
export function wordBeside(points: readonly string[], places: readonly Place[], now: Stretch | null, by: 1 | -1) {
  const words = places.map((one) => wordOf(points, one))
  const beside =
    by > 0 ? words.find(([start]) => !now || start >= now[1]) : words.findLast(([, end]) => !now || end <= now[0])
  return beside ?? (by > 0 ? words[0] : words.at(-1)) ?? null
}

const isBlank = (point: string | undefined) => point === undefined || /\s/.test(point)

// Some words before and after a stretch, on one line.
export function beside(points: readonly string[], [start, end]: Stretch, words = 6): [string, string] {
  const before = points
    .slice(Math.max(0, start - 200), start)
    .join('')
    .split(/\s+/)
  const after = points
    .slice(end, end + 200)
    .join('')
    .split(/\s+/)
  return [before.slice(-words - 1).join(' '), after.slice(0, words + 1).join(' ')]
}

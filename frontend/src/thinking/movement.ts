// What the draft did to one judged query. The first that fits wins.
//   still     the delta shows as 0.000
//   gained    the draft is better
//   lost      the draft is worse
export type Movement = 'still' | 'gained' | 'lost'

export function movement(delta: number): Movement {
  if (Math.abs(delta) < 0.0005) return 'still'
  return delta > 0 ? 'gained' : 'lost'
}

export type Stroke = { queryId: string; delta: number }

export type Waterline = { strokes: Stroke[]; still: number; gained: number; lost: number }

// One stroke per judged query that moved, greatest gain first, greatest loss last; ties counted apart.
export function waterline(draft: Record<string, number>, baseline: Record<string, number>): Waterline {
  const all = Object.keys(baseline)
    .filter((queryId) => queryId in draft)
    .map((queryId) => ({ queryId, delta: (draft[queryId] ?? 0) - (baseline[queryId] ?? 0) }))
  const moved = all.filter((stroke) => movement(stroke.delta) !== 'still')
  moved.sort((a, b) => b.delta - a.delta || (a.queryId < b.queryId ? -1 : 1))
  const gained = moved.filter((stroke) => stroke.delta > 0).length
  return {
    strokes: moved,
    still: all.length - moved.length,
    gained,
    lost: moved.length - gained,
  }
}

// The walk from the worst loss up: after the open query the next lesser loss, from anywhere else the worst; after the
// least loss the worst again. Null where nothing lost.
export function nextLoss(line: Waterline, open: string | null): Stroke | null {
  const losses = line.strokes.filter((stroke) => stroke.delta < 0).toReversed()
  const at = losses.findIndex((stroke) => stroke.queryId === open)
  return losses[at + 1] ?? losses[0] ?? null
}

export type Binned = { from: number; to: number; strokes: Stroke[]; delta: number }

// Where there are more strokes than room, neighbours share one: their mean delta.
export function binned(strokes: Stroke[], room: number): Binned[] {
  const count = Math.min(strokes.length, Math.max(1, room))
  return Array.from({ length: count }, (_, bin) => {
    const from = Math.floor((bin * strokes.length) / count)
    const to = Math.floor(((bin + 1) * strokes.length) / count)
    const own = strokes.slice(from, to)
    return { from, to, strokes: own, delta: own.reduce((sum, stroke) => sum + stroke.delta, 0) / own.length }
  })
}

// How far down a list a measure looks, ten where it looks at all of it.
export const depthOfMeasure = (measure: string): number => Number(/@(\d+)$/.exec(measure)?.[1] ?? 10)

// How far a row moved: positive is up, null is new among the rows looked at.
export function rankMovement(key: string, rank: number, before: readonly string[]): number | null {
  const was = before.indexOf(key)
  return was < 0 ? null : was + 1 - rank
}

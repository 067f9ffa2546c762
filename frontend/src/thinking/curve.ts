// The curve of a knob: how good the judged queries come out over its range, everything else held still.
import type { Turned } from '../api/curves'

export type Path = (string | number)[]

// Where two documents differ, if they do at one place.
export function placeOfChange(before: unknown, after: unknown): Path | null {
  const found: Path[] = []
  compare(before, after, [], found)
  const [only] = found
  return found.length === 1 && only !== undefined ? only : null
}

function compare(before: unknown, after: unknown, at: Path, found: Path[]) {
  if (Object.is(before, after)) return
  if (!isHolder(before) || !isHolder(after) || !sameSteps(before, after)) {
    found.push(at)
    return
  }
  for (const step of Object.keys(before))
    compare(before[step as never], after[step as never], [...at, Array.isArray(before) ? Number(step) : step], found)
}

const isHolder = (value: unknown): value is object => typeof value === 'object' && value !== null

const sameSteps = (one: object, other: object) =>
  Array.isArray(one) === Array.isArray(other) && Object.keys(one).join('\n') === Object.keys(other).join('\n')

// What stands at a place of a document.
export const valueAt = (document: unknown, path: Path): unknown =>
  path.reduce<unknown>((at, step) => (isHolder(at) ? at[step as never] : undefined), document)

// The document with what stands at a place in another one; parts that it has not are the other's.
export function grafted<T>(document: T, other: unknown, path: Path): T {
  const [step, ...rest] = path
  if (step === undefined || !isHolder(document) || !isHolder(other)) return other as T
  const copy = (Array.isArray(document) ? [...(document as unknown[])] : { ...document }) as T
  copy[step as never] = grafted(document[step as never], other[step as never], rest) as never
  return copy
}

// The document with another value at a place.
export const withAt = <T>(document: T, path: Path, value: unknown): T =>
  grafted(
    document,
    path.reduceRight<unknown>(
      (inner, step) => (typeof step === 'number' ? sparse(step, inner) : { [step]: inner }),
      value,
    ),
    path,
  )

function sparse(place: number, value: unknown): unknown[] {
  const list: unknown[] = []
  list[place] = value
  return list
}

// Values along a track, evenly, as finely as the knob is turned; both ends are among them.
export function valuesAlong(from: number, to: number, step: number, count = 17): number[] {
  const all = Array.from({ length: count }, (_, i) => {
    const value = from + ((to - from) * i) / (count - 1)
    return Math.min(to, Number((from + Math.round((value - from) / step) * step).toFixed(10)))
  })
  return [...new Set(all)]
}

export type Curve = {
  // Where the knob stands in 0 to 1 of the track, and how good it is there.
  points: { at: number; value: number; mean: number; worst: number | null; best: number | null }[]
  // What the drawing reaches from and to.
  low: number
  high: number
  top: { value: number; mean: number }
  isFlat: boolean
}

// What shows as 0.000.
const NO_DIFFERENCE = 0.0005
// A drawing that reached over less would make mountains of molehills.
const LEAST_REACH = 0.04

// here: where the knob stands and what the draft was measured at, which no line between other places would tell.
export function curveOf(
  values: readonly number[],
  turned: readonly Turned[],
  here: { value: number; mean: number } | null = null,
): Curve | null {
  const [from, to] = [values[0], values.at(-1)]
  if (from === undefined || to === undefined || from === to || turned.length !== values.length) return null
  const at = (value: number) => (value - from) / (to - from)
  const points = values.flatMap((value, i) => {
    const own = turned[i]
    if (own?.mean === undefined || own.mean === null) return []
    const ends = { worst: own.band?.worst ?? null, best: own.band?.best ?? null }
    return [{ at: at(value), value, mean: own.mean, ...ends }]
  })
  if (here !== null && here.value > from && here.value < to && !values.includes(here.value)) {
    points.push({ at: at(here.value), ...here, worst: null, best: null })
    points.sort((one, other) => one.value - other.value)
  }
  const means = points.map((point) => point.mean)
  const top = points.reduce<(typeof points)[number] | undefined>(
    (best, point) => (best === undefined || point.mean > best.mean ? point : best),
    undefined,
  )
  if (top === undefined) return null
  const [least, most] = [Math.min(...means), Math.max(...means)]
  return { points, ...reachOf(means), top, isFlat: most - least < NO_DIFFERENCE }
}

// Bars for choices, each 0 to 1 of the room; null where no query counts.
export function barsOf(turned: readonly Turned[]): { mean: number; height: number }[] | null {
  const means = turned.flatMap((one) => (one.mean === null || one.mean === undefined ? [] : [one.mean]))
  if (means.length !== turned.length || means.length === 0) return null
  const { low, high } = reachOf(means)
  return means.map((mean) => ({ mean, height: (mean - low) / (high - low) }))
}

function reachOf(means: readonly number[]): { low: number; high: number } {
  const [least, most] = [Math.min(...means), Math.max(...means)]
  const half = Math.max(most - least, LEAST_REACH) * 0.55
  return { low: (least + most) / 2 - half, high: (least + most) / 2 + half }
}

// How good it is at a value between those that were tried, on the straight line between them; null outside.
export function meanAt(curve: Curve, value: number): number | null {
  const after = curve.points.findIndex((point) => point.value >= value)
  const right = curve.points[after]
  if (right === undefined) return null
  if (right.value === value) return right.mean
  const left = curve.points[after - 1]
  if (left === undefined) return null
  return left.mean + ((right.mean - left.mean) * (value - left.value)) / (right.value - left.value)
}

// What is said of a knob: that it does not matter, that it stands at its best, or what the best would gain.
export function curveSays(curve: Curve, here: number): { words: string; better: number | null } {
  if (curve.isFlat) return { words: 'no difference', better: null }
  const own = meanAt(curve, here)
  const gain = own === null ? 0 : curve.top.mean - own
  if (own !== null && gain < NO_DIFFERENCE) return { words: 'at its best', better: null }
  return {
    words: own === null ? `best at ${short(curve.top.value)}` : `+${gain.toFixed(3)} at ${short(curve.top.value)}`,
    better: curve.top.value,
  }
}

// What is said of a stage, by the means with it and without.
export function stageSays(on: number, off: number): string {
  if (Math.abs(on - off) < NO_DIFFERENCE) return 'no difference'
  return on > off ? `earns ${(on - off).toFixed(3)}` : `costs ${(off - on).toFixed(3)}`
}

const short = (value: number) => String(Math.round(value * 1000) / 1000)

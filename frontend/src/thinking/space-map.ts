// The square that points of a map are laid into, the same scale both ways.
import type { SpaceMap } from '../api/spaces'

export type Dot = SpaceMap['points'][number]

type Reach = [number, number]

// In the middle of it, whichever way the cloud is wider.
export function square(map: Pick<SpaceMap, 'points' | 'wanted'>): { x: Reach; y: Reach } {
  const xs = [...map.points.map(({ x }) => x), ...(map.wanted ? [map.wanted[0]] : [])]
  const ys = [...map.points.map(({ y }) => y), ...(map.wanted ? [map.wanted[1]] : [])]
  const [left, right] = ends(xs)
  const [low, high] = ends(ys)
  const half = Math.max(right - left, high - low) / 2 || 1
  const around = (from: number, to: number): Reach => [(from + to) / 2 - half, (from + to) / 2 + half]
  return { x: around(left, right), y: around(low, high) }
}

function ends(values: readonly number[]): Reach {
  const first = values[0] ?? 0
  return values.reduce<Reach>(([low, high], one) => [Math.min(low, one), Math.max(high, one)], [first, first])
}

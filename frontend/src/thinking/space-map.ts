// Points of a map laid into a square, the same scale both ways.
import type { SpaceMap } from '../api/spaces'

export type Dot = SpaceMap['points'][number]

const EDGE = 14

export function scaled(
  map: Pick<SpaceMap, 'points' | 'wanted'>,
  size: number,
): { dots: Dot[]; wanted: { x: number; y: number } | null } {
  const all = [
    ...map.points.map(({ x, y }) => [x, y] as const),
    ...(map.wanted ? [[map.wanted[0], map.wanted[1]] as const] : []),
  ]
  const xs = all.map(([x]) => x)
  const ys = all.map(([, y]) => y)
  const [left, right, low, high] = [least(xs), -least(xs.map((x) => -x)), least(ys), -least(ys.map((y) => -y))]
  const reach = Math.max(right - left, high - low) || 1
  const scale = (size - 2 * EDGE) / reach
  // In the middle of the square, whichever way the cloud is wider.
  const put = (x: number, y: number) => ({
    x: size / 2 + (x - (left + right) / 2) * scale,
    y: size / 2 - (y - (low + high) / 2) * scale,
  })
  return {
    dots: map.points.map((point) => ({ ...point, ...put(point.x, point.y) })),
    wanted: map.wanted ? put(map.wanted[0], map.wanted[1]) : null,
  }
}

const least = (values: readonly number[]) => values.reduce((a, b) => Math.min(a, b), values[0] ?? 0)

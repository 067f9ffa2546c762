// Quality over time, in words, tables and points.
import type { Check, Quality, VersionQuality } from '../api/quality'

export type Point = { ranker: string; order: number; mean: number; version: number }

// One point for each version that can be asked, in the order in which they were kept.
export const pointsOf = ({ versions }: Quality): Point[] =>
  versions.flatMap(({ ranker, version, mean }, i) => (mean === null ? [] : [{ ranker, version, mean, order: i + 1 }]))

const ALL_LABELLED = 6

// The points that say whose they are: the newest of each ranker, of many rankers those that have a course.
export function labelled(points: readonly Point[]): Point[] {
  const newest = [...new Map(points.map((one) => [one.ranker, one])).values()]
  if (newest.length <= ALL_LABELLED) return newest
  return newest.filter(({ ranker }) => points.filter((one) => one.ranker === ranker).length > 1)
}

// The span of the means, a little wider, and never so narrow that nothing looks like much.
export function spanOf(points: readonly Point[]): [number, number] {
  const means = points.map((point) => point.mean)
  const [low, high] = [Math.min(...means), Math.max(...means)]
  const room = Math.max(0.02, 0.15 * (high - low))
  return [Math.max(0, low - room), high + room]
}

// The newest check of each version that was checked.
export function newestChecks(checks: readonly Check[]): Map<string, Check> {
  const found = new Map<string, Check>()
  for (const one of checks) if (!found.has(one.ranker)) found.set(one.ranker, one)
  return found
}

export const titleOf = ({ ranker, version }: Pick<VersionQuality, 'ranker' | 'version'>) => `${ranker}:${version}`

export const checkText = (check: Check) =>
  check.holds
    ? `${check.rules.length} of ${check.rules.length} rules hold`
    : `${check.rules.filter((rule) => rule.holds !== true).length} of ${check.rules.length} rules broken`

export const qualityTable = (told: Quality): (string | number)[][] => [
  ['ranker', 'version', 'kept', told.measure, 'gained', 'lost', 'check', 'note'],
  ...told.versions.map((one) => {
    const check = newestChecks(told.checks).get(titleOf(one))
    return [
      ...[one.ranker, one.version, one.kept_at, one.mean ?? one.problem ?? '', one.gained ?? '', one.lost ?? ''],
      ...[check ? checkText(check) : '', one.note],
    ]
  }),
]

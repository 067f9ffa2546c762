// What a collection would be, in words and tables.
import type { Growth } from '../api/tuning'

// How long something takes, to the closest unit that says something.
export function secondsLong(seconds: number): string {
  if (seconds < 10) return `${seconds.toFixed(1)} s`
  if (seconds < 120) return `${Math.round(seconds)} s`
  if (seconds < 7_200) return `${Math.round(seconds / 60)} min`
  return `${(seconds / 3_600).toFixed(1)} h`
}

export const growthTable = (estimate: NonNullable<Growth['estimate']>): (string | number)[][] => [
  [
    ...['times', 'records', 'terms', 'index bytes', 'vector bytes', 'build s'],
    ...['looking up p50 ms', 'looking up p95 ms', 'ranking p50 ms', 'ranking p95 ms', 'all p50 ms', 'all p95 ms'],
    ...['times are', 'value', 'low', 'high'],
  ],
  ...estimate.sizes.map((one) => [
    ...[one.times, one.records, one.terms, one.index_bytes, one.vector_bytes, one.build_s],
    ...[one.times_ms.looking_up_p50, one.times_ms.looking_up_p95, one.times_ms.ranking_p50, one.times_ms.ranking_p95],
    ...[one.times_ms.all_p50, one.times_ms.all_p95, one.times_are, one.value, one.low, one.high],
  ]),
]

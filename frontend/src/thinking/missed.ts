// What is missed of a judged set: which queries come first, and the table as CSV.
import type { Schemas } from '../api/client'

type OfQuery = Schemas['MissedOfQuery']

// Of those that miss something, the ones that miss the largest share first; the rest are whole.
export function byRecall(queries: readonly OfQuery[]): { missing: OfQuery[]; whole: number } {
  const missing = queries.filter((one) => one.above < one.good)
  return {
    missing: [...missing].sort((a, b) => a.recall - b.recall || b.good - b.above - (a.good - a.above)),
    whole: queries.length - missing.length,
  }
}

// Queries weigh alike; of none there is no mean.
export const meanRecall = (queries: readonly OfQuery[]) =>
  queries.length === 0 ? undefined : queries.reduce((sum, one) => sum + one.recall, 0) / queries.length

export const missedTable = (queries: readonly OfQuery[]): (string | number)[][] => [
  ['query_id', 'query', 'recall', 'record', 'title', 'grade', 'rank', 'reason'],
  ...queries.flatMap((one) =>
    one.records.map((record) => [
      ...[one.query_id, one.query, one.recall],
      ...[record.key, record.title, record.grade, record.rank ?? '', record.reason],
    ]),
  ),
]

// The table of judged queries: its rows, their order, their means by tag, and its CSV.
import type { JudgedSet, Measurement } from '../api/queries'

export type QueryRow = {
  queryId: string
  place: number
  query: string
  filters: readonly unknown[]
  need: string
  tags: string[]
  main: number
  delta: number
  ap: number
  rr: number
  judged: number
  // Share of unjudged records among the first ten found.
  unjudged: number
  matched: number
  weight: number
}

export type Column = 'place' | 'query' | 'main' | 'delta' | 'ap' | 'rr' | 'judged' | 'matched'
export type Sorting = { column: Column; up: boolean }

export function tableRows(
  queries: JudgedSet['queries'],
  draft: Pick<Measurement['figures'], 'measured' | 'matched'>,
  baseline: Pick<Measurement['figures'], 'measured'>,
  main: string,
  weighted: boolean,
): QueryRow[] {
  return queries
    .filter((query) => query.query_id in draft.measured.per_query)
    .map((query, place) => {
      const values = draft.measured.per_query[query.query_id] ?? {}
      const before = baseline.measured.per_query[query.query_id] ?? {}
      const [judged, matched] = [values['judged@10'] ?? 0, draft.matched[query.query_id] ?? 0]
      return {
        queryId: query.query_id,
        place,
        query: query.query,
        filters: query.filters,
        need: query.need,
        tags: query.tags,
        main: values[main] ?? 0,
        delta: (values[main] ?? 0) - (before[main] ?? 0),
        ap: values.ap ?? 0,
        rr: values.rr ?? 0,
        judged,
        unjudged: matched > 0 ? 1 - judged : 0,
        matched,
        weight: weighted ? (query.asked ?? 1) : 1,
      }
    })
}

export function sorted(rows: QueryRow[], { column, up }: Sorting): QueryRow[] {
  const way = up ? 1 : -1
  const compare = (a: QueryRow, b: QueryRow) => {
    const [x, y] = [a[column], b[column]]
    return (typeof x === 'string' ? x.localeCompare(String(y)) : x - Number(y)) * way || a.place - b.place
  }
  return [...rows].sort(compare)
}

export type Slice = { tag: string; count: number; mean: number; delta: number; unjudged: number }

// Weakest first: that is where the work is.
export function byTag(rows: QueryRow[]): Slice[] {
  const tags = [...new Set(rows.flatMap((row) => row.tags))]
  return tags
    .map((tag) => {
      const own = rows.filter((row) => row.tags.includes(tag))
      const weight = own.reduce((sum, row) => sum + row.weight, 0)
      const mean = (of: (row: QueryRow) => number) =>
        weight > 0 ? own.reduce((sum, row) => sum + row.weight * of(row), 0) / weight : 0
      return {
        tag,
        count: own.length,
        mean: mean((row) => row.main),
        delta: mean((row) => row.delta),
        unjudged: mean((row) => row.unjudged),
      }
    })
    .sort((a, b) => a.mean - b.mean || a.tag.localeCompare(b.tag))
}

export const asTable = (rows: QueryRow[], measure: string): (string | number)[][] => [
  ['query_id', 'query', 'need', 'tags', measure, 'change', 'ap', 'rr', 'judged@10', 'found'],
  ...rows.map((row) => [
    ...[row.queryId, row.query, row.need, row.tags.join(';'), row.main, row.delta],
    ...[row.ap, row.rr, row.judged, row.matched],
  ]),
]

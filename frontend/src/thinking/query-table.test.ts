import { describe, expect, it } from 'vitest'
import { csv } from './csv'
import { asTable, byTag, sorted, tableRows } from './query-table'

const query = (id: string, text: string, tag: string, asked: number | null = null) => ({
  query_id: id,
  query: text,
  need: '',
  tags: [tag],
  grades: {},
  filters: [],
  language: null,
  asked,
})
const rowsOf = (weighted: boolean) =>
  tableRows(
    [
      query('q1', 'harpon', 'misspelling'),
      query('q2', 'bell', 'too broad', 3),
      query('q3', '=1+1, "x"', 'too broad'),
      query('q9', 'unjudged', 'x'),
    ],
    {
      measured: {
        means: {},
        per_query: {
          q1: { 'ndcg@10': 0, 'judged@10': 0 },
          q2: { 'ndcg@10': 0.8, ap: 0.5, 'judged@10': 0.7 },
          q3: { 'ndcg@10': 0.4, 'judged@10': 0.5 },
        },
      },
      matched: { q1: 0, q2: 7, q3: 1 },
    },
    { measured: { means: {}, per_query: { q1: { 'ndcg@10': 0 }, q2: { 'ndcg@10': 0.6 }, q3: { 'ndcg@10': 0.5 } } } },
    'ndcg@10',
    weighted,
  )
const rows = rowsOf(false)

describe('the table of judged queries', () => {
  it('leaves out queries without judgments', () => {
    expect(rows.map((row) => row.queryId)).toEqual(['q1', 'q2', 'q3'])
  })

  it('sorts either way, equals in the order of the set', () => {
    expect(sorted(rows, { column: 'delta', up: false }).map((row) => row.queryId)).toEqual(['q2', 'q1', 'q3'])
    expect(sorted(rows, { column: 'rr', up: true }).map((row) => row.queryId)).toEqual(['q1', 'q2', 'q3'])
  })

  it('means by tag, weakest first', () => {
    expect(byTag(rows).map(({ tag, count }) => [tag, count])).toEqual([
      ['misspelling', 1],
      ['too broad', 2],
    ])
    expect(byTag(rows)[1]?.mean).toBeCloseTo(0.6)
    expect(byTag(rows)[1]?.delta).toBeCloseTo(0.05)
    expect(byTag(rows)[1]?.unjudged).toBeCloseTo(0.4)
    // Where nothing is found, nothing is unjudged.
    expect(byTag(rows)[0]?.unjudged).toBe(0)
  })

  it('weighs a query as often as it was asked where that is the rule', () => {
    expect(byTag(rowsOf(true))[1]?.mean).toBeCloseTo((3 * 0.8 + 0.4) / 4)
    expect(byTag(rowsOf(true))[1]?.delta).toBeCloseTo((3 * 0.2 - 0.1) / 4)
  })

  it('writes CSV whose cells no spreadsheet runs', () => {
    expect(csv(asTable(rows.slice(2), 'ap')).split('\r\n')[1]).toContain(`q3,"'=1+1, ""x"""`)
  })
})

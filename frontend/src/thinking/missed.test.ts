import { describe, expect, it } from 'vitest'
import { csv } from './csv'
import { byRecall, meanRecall, missedTable } from './missed'

const of = (query_id: string, above: number, good: number) => ({
  ...{ query_id, query: `query ${query_id}`, good, found: above, above, recall: above / good, unexplained: 0 },
  records: [{ key: 'sm1', title: '=Fog, "bell"', grade: 3, rank: null, reason: 'It lacks “fog”.' }],
})

describe('what is missed', () => {
  it('comes with the queries first that miss the largest share, then the most', () => {
    const queries = [of('a', 1, 2), of('b', 2, 2), of('c', 0, 1), of('d', 2, 4)]
    const { missing, whole } = byRecall(queries)
    expect(missing.map((one) => one.query_id)).toEqual(['c', 'd', 'a'])
    expect(whole).toBe(1)
  })
  it('has a mean over queries, and none over none', () => {
    expect(meanRecall([of('a', 1, 2), of('b', 2, 2)])).toBe(0.75)
    expect(meanRecall([])).toBeUndefined()
  })
  it('is copied as a table in which nothing is a formula', () => {
    expect(csv(missedTable([of('a', 1, 2)]))).toBe(
      'query_id,query,recall,record,title,grade,rank,reason\r\n' +
        'a,query a,0.5,sm1,"\'=Fog, ""bell""",3,,It lacks “fog”.\r\n',
    )
  })
})

import { describe, expect, it, test } from 'vitest'
import { agreementText, askedAs, driftText, isSameQuery, nextUnjudged, judgesBefore } from './judging'

describe('where a judge goes next', () => {
  const judged = [
    [true, false],
    [false, true, true],
  ]
  it('is the next record without a word, in this query and then in the next', () => {
    expect(nextUnjudged(judged, { query: 0, record: 0 })).toEqual({ query: 0, record: 1 })
    expect(nextUnjudged(judged, { query: 0, record: 1 })).toEqual({ query: 1, record: 0 })
  })
  it('comes round to what was passed over', () => {
    expect(nextUnjudged(judged, { query: 1, record: 0 })).toEqual({ query: 0, record: 1 })
    expect(nextUnjudged([[false]], { query: 0, record: 0 })).toEqual({ query: 0, record: 0 })
  })
  it('is nowhere when all is judged', () => {
    expect(nextUnjudged([[true], [true]], { query: 0, record: 0 })).toBeNull()
  })
})

describe('what is told of judges', () => {
  it('is gentle, and silent where little is shared or little differs', () => {
    expect(driftText({ judge: 'Ada', shared: 40, drift: -0.72 })).toBe(
      'grades 0.7 lower than the others do; worth a talk about what the grades mean',
    )
    expect(driftText({ judge: 'Ada', shared: 9, drift: 2 })).toBe('')
    expect(driftText({ judge: 'Ada', shared: 40, drift: 0.4 })).toBe('')
  })
  it('has rough words for a figure', () => {
    expect([null, -0.1, 0.1, 0.35, 0.6, 0.7, 0.9].map(agreementText)).toEqual([
      'nothing to compare yet',
      'less than by chance',
      'slight',
      'fair',
      'moderate',
      'substantial',
      'almost perfect',
    ])
  })
})

test('a query is the same whatever its capitals and blanks', () => {
  expect(isSameQuery('Fog  Bell ', ' fog bell')).toBe(true)
  expect(isSameQuery('fog bell', 'fog bells')).toBe(false)
  expect(isSameQuery('fogbell', 'fog bell')).toBe(false)
})

test('a judged query is opened with the filters that it is measured with', () => {
  const filters = [{ field: 'kind', one_of: ['bell'] }]
  expect(askedAs({ query: 'fog', filters })).toEqual({ q: 'fog', f: '[{"field":"kind","one_of":["bell"]}]' })
  expect(askedAs({ query: 'fog', filters: [] })).toEqual({ q: 'fog' })
})

describe('judges who are known already', () => {
  const tasks = [
    { name: 'second', judges: [{ judge: 'Ada' }] },
    { name: 'first', judges: [{ judge: 'Ada' }, { judge: 'Bo' }] },
  ]

  it('are those whom tasks asked, with the newest of these', () => {
    expect([...judgesBefore(tasks, ['Ada', 'Cy', 'Bo'], '')]).toEqual([
      ['Ada', 'second'],
      ['Bo', 'first'],
    ])
  })

  it('are those of whom a refusal tells', () => {
    expect([...judgesBefore(tasks, ['Cy', ''], '"Cy" has judged "visitors" before.')]).toEqual([['Cy', null]])
    expect([...judgesBefore(tasks, ['C'], '"Cy" has judged "visitors" before.')]).toEqual([])
  })
})

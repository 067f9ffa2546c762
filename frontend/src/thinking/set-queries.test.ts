import { describe, expect, it } from 'vitest'
import type { ListedQuery } from '../api/judging'
import { foundQueries, queriesTable, queryRequest, queryText } from './set-queries'

const query = (query_id: string, more: Partial<ListedQuery> = {}): ListedQuery => ({
  query_id,
  query: 'fog bell',
  need: 'A bell.',
  tags: [],
  filters: [],
  language: null,
  asked: null,
  nothing_to_find: false,
  locked: false,
  graded: 3,
  relevant: 1,
  ...more,
})

describe('the queries of a set', () => {
  const all = [
    query('q1'),
    query('q2', { query: 'Åsmoe', tags: ['two words'], locked: true }),
    query('q3', { graded: 0, need: 'Lamps' }),
  ]
  const ids = (words: string) => foundQueries(all, words).map((one) => one.query_id)
  it('are found by words of query and need, by tag and by what they lack', () => {
    expect(ids('')).toEqual(['q1', 'q2', 'q3'])
    expect(ids('åsm')).toEqual(['q2'])
    expect(ids('fog lamps')).toEqual(['q3'])
    expect(ids('tag:two')).toEqual(['q2'])
    expect(ids('locked')).toEqual(['q2'])
    expect(ids('unjudged')).toEqual(['q3'])
  })
  it('go through their form and come out as they were', () => {
    const one = query('q1', {
      tags: ['a b', 'c'],
      asked: 12,
      language: 'de',
      filters: [{ field: 'kind', one_of: ['lamp'] }],
    })
    const written = {
      query: 'fog bell',
      need: 'A bell.',
      tags: ['a b', 'c'],
      asked: 12,
      language: 'de',
      filters: [{ field: 'kind', one_of: ['lamp'] }],
      nothing_to_find: false,
    }
    expect(queryRequest(queryText(one), false)).toEqual({ ...written, locked: false })
    expect(queryRequest(queryText(one), true)).toEqual({ ...written, locked: null })
  })
})

it('gives the queries as rows to take along', () => {
  const asked = query('q1', { tags: ['one', 'two'], asked: 40, relevant: 2 })
  const empty = query('q2', { query: 'penguin', nothing_to_find: true, locked: true })
  expect(queriesTable([asked, empty])).toEqual([
    ['query', 'need', 'tags', 'asked', 'graded', 'relevant', 'locked'],
    ['fog bell', 'A bell.', 'one, two', 40, 3, 2, ''],
    ['penguin', 'A bell.', '', '', 3, 'nothing', 'locked'],
  ])
})

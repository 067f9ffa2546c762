import { expect, it } from 'vitest'
import type { WhyAnswer } from '../api/queries'
import { comparedParts, kindWords, plainText } from './why'

const term = (name: string, score: number) => ({
  kind: 'term' as const,
  term: name,
  said: name,
  times: 1,
  holding: 3,
  idf: 1,
  worth: 1,
  edits: 0,
  frequency: 1,
  norm: 1,
  score,
})
const reading = (field: string, weight: number, ...terms: ReturnType<typeof term>[]) => {
  const unweighted = terms.reduce((sum, one) => sum + one.score, 0)
  return {
    number: 0,
    field,
    chain: 'words',
    weight,
    k1: 1,
    b: 1,
    length: 3,
    average_length: 3,
    record_count: 9,
    unweighted,
    score: weight * unweighted,
    terms,
    missing: [],
  }
}
const answer = (key: string, readings: ReturnType<typeof reading>[], more: Partial<WhyAnswer> = {}): WhyAnswer => {
  const sum = readings.reduce((total, part) => total + part.score, 0)
  return {
    key,
    score: sum,
    keyword_score: sum,
    how: 'sum',
    share: 0,
    pool_k1: 1.2,
    readings,
    pool: null,
    signals: [],
    lifts: [],
    words: [],
    matched: true,
    rank: 1,
    pinned: false,
    hidden: false,
    failed_filters: [],
    blend: null,
    ...more,
  }
}

it('two rows are told apart by their parts, the most telling first', () => {
  const a = answer('a', [reading('title', 3, term('bell', 2)), reading('text', 1, term('fog', 1))])
  const b = answer('b', [reading('text', 1, term('fog', 2))])
  expect(comparedParts(a, b)).toEqual([
    { name: 'title: bell', first: 6, second: 0, apart: 6 },
    { name: 'text: fog', first: 1, second: 2, apart: -1 },
  ])
})

it('the parts of a row come to its score, signals that multiply and lifts included', () => {
  const signal = (amount: number, multiplied: boolean) => ({
    signal: {
      field: multiplied ? 'asked' : 'year',
      shape: 'log' as const,
      weight: 1,
      scale: 1,
      without: 0,
      now: null,
      how: multiplied ? ('multiply' as const) : ('add' as const),
    },
    value: 1,
    amount,
  })
  for (const how of ['sum', 'strongest'] as const) {
    const readings = [reading('title', 3, term('bell', 2)), reading('text', 1, term('fog', 1))]
    const keyword = how === 'sum' ? 7 : 6 + 0.5
    const a = answer('a', readings, {
      how,
      share: 0.5,
      keyword_score: keyword,
      score: (keyword + 2) * 1.5 * 2,
      signals: [signal(1.5, true), signal(2, false)],
      lifts: [2],
    })
    const parts = comparedParts(a, answer('b', []))
    expect(parts.reduce((sum, part) => sum + part.first, 0)).toBeCloseTo(a.score)
  }
})

it('says how a term came about, and copies as text', () => {
  expect(kindWords({ kind: 'spelling', said: 'harpon', edits: 1 })).toBe(' for harpon, 1 edit')
  expect(kindWords({ kind: 'term', said: 'x', edits: 0 })).toBe('')
  expect(plainText('Bell', answer('a', [reading('title', 3, term('bell', 2))]))).toContain('6 = 3 × 2  title: words')
})

import { describe, expect, it } from 'vitest'
import type { PastAsked, Rewriting, SuggestedGrade } from '../api/delivery'
import {
  dayBars,
  NONE_OF,
  ORDERS,
  protocolAddresses,
  shareText,
  snippet,
  sureText,
  synonymLines,
  whyHere,
} from './delivery'

describe('a share', () => {
  it.each([
    [0, 0, '–'],
    [0, 5, '0 %'],
    [1, 3, '33 %'],
    [1, 1000, '0.1 %'],
    [99, 1000, '9.9 %'],
    [100, 1000, '10 %'],
    [5, 5, '100 %'],
  ])('of %i in %i is %s', (part, whole, says) => {
    expect(shareText(part, whole)).toBe(says)
  })
})

describe('days', () => {
  it('stand one by one, those without a query too', () => {
    const day = (name: string, asked: number) => ({ day: name, asked, nothing: 1, given_up: 0, succeeded: 0 })
    const bars = dayBars([day('2026-02-27', 4), day('2026-03-01', 8)])
    expect(bars.map(({ day, asked, share }) => [day, asked, share])).toEqual([
      ['2026-02-27', 4, 0.5],
      ['2026-02-28', 0, 0],
      ['2026-03-01', 8, 1],
    ])
    expect(dayBars([])).toEqual([])
  })
})

describe('what an order is about', () => {
  const one = { asked: 10, later: 8, nothing: 3, given_up: 4, clicked: 2, slow_ms: 41.6, cut: 0 } as PastAsked
  it('is said beside each query', () => {
    expect(whyHere(one, 'rising')).toBe('2 before, 8 since')
    expect(whyHere(one, 'nothing')).toBe('nothing 3 of 10 times')
    expect(whyHere(one, 'given_up')).toBe('given up 4 of 10 times')
    expect(whyHere(one, 'slow')).toBe('one of twenty took over 42 ms')
    expect(whyHere({ ...one, cut: 2 }, 'slow')).toContain('cut short 2 times')
    expect(whyHere(one, 'frequent')).toBe('clicked 2 times')
    expect(whyHere({ ...one, clicked: 1 }, 'unjudged')).toBe('clicked once')
    expect(whyHere({ ...one, clicked: 0 }, 'unjudged')).toBe('')
  })

  it('is said where there is none', () => {
    for (const [order] of ORDERS) expect(NONE_OF[order]).not.toBe('')
  })
})

describe('a suggested grade', () => {
  const told = (low: number, high: number): SuggestedGrade => ({
    ...{ query: 'eel', key: 's1', title: 'Smoked eel', grade: 2, low, high },
    appeal: { attractive: 0.5, satisfying: 0.5, good: 0.25, deviation: 0.1, read: 12.4, clicked: 6 },
  })
  it('says how sure it is', () => {
    expect(sureText(told(2, 2))).toBe('read about 12 times, clicked 6')
    expect(sureText(told(1, 3))).toBe('1 to 3; read about 12 times, clicked 6')
  })
})

it('a site needs two lines', () => {
  expect(snippet('https://search.example', 'saltmere', 'abc').split('\n')).toEqual([
    '<script type="module" src="https://search.example/harbor-search.js"></script>',
    '<harbor-search collection="saltmere" key="abc"></harbor-search>',
  ])
})

it('whoever asks by an open protocol has the key in the address', () => {
  const told = (paged: boolean) =>
    protocolAddresses('https://search.example', 'quay', 'a/b', paged).map((one) => one.address)
  expect(told(false)).toEqual([
    'https://search.example/v1/quay/keys/a%2Fb/sru',
    'https://search.example/v1/quay/keys/a%2Fb/oai',
  ])
  expect(told(true)[0]).toBe('https://search.example/v1/quay/keys/a%2Fb/iiif/collection')
})

describe('one word for another', () => {
  const one = (kind: Rewriting['kind'], before: string, after: string): Rewriting => ({
    ...{ first: `${before} bell`, then: `${after} bell`, sessions: 3 },
    ...{ kind, before, after },
  })
  it('becomes lines of a list of synonyms, either way round once', () => {
    const rewritings = [
      one('one word for another', 'siren', 'horn'),
      one('a slip mended', 'bel', 'bell'),
      one('one word for another', 'horn', 'siren'),
    ]
    expect(synonymLines(rewritings)).toEqual([
      ['words', 'means', 'way'],
      ['siren', 'horn', 'both'],
    ])
  })

  it('gives no list where there is none', () => {
    expect(synonymLines([one('a slip mended', 'bel', 'bell')])).toEqual([])
  })
})

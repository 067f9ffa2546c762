import { describe, expect, it } from 'vitest'
import {
  filterText,
  needChoice,
  needOfChoice,
  namesOfReadings,
  needSteps,
  parsedFilter,
  parsedFilters,
  ruleText,
  stepsText,
  toggledValue,
  type Reading,
} from './ranker-parts'

describe('words needed', () => {
  it('are chosen from a list, by length, or shown as they are', () => {
    for (const choice of ['any', 'all', '2', '75%', 'by length'] as const)
      expect(needChoice(needOfChoice(choice))).toBe(choice)
    expect(needChoice('40%')).toBe('other')
    expect(needOfChoice('2')).toBe(2)
  })
  it('by length are typed in steps', () => {
    expect(needSteps('1 all, 4 75%')).toEqual({ '1': 'all', '4': '75%' })
    expect(needSteps(stepsText({ '2': 2, '5': '50%' }))).toEqual({ '2': 2, '5': '50%' })
    for (const text of ['', 'all', '1', '1 some', '1 all; 2 any']) expect(needSteps(text)).toBeNull()
  })
})

describe('filters', () => {
  it('are typed in three ways and said in words', () => {
    const said = ['kind=letter', 'year:1890..1910', 'year:1890..', 'maker'].map((text) => {
      const filter = parsedFilter(text)
      return filter && filterText(filter)
    })
    expect(said).toEqual(['kind is letter', 'year from 1890 to 1910', 'year from 1890 on', 'maker has a value'])
    for (const text of ['', 'year:', 'year:..', '=x', 'two words']) expect(parsedFilter(text)).toBeNull()
  })
  it('of one field widen each other, and go when their last value does', () => {
    const one = toggledValue([], 'kind', 'letter')
    const two = toggledValue(one, 'kind', 'chart')
    expect(two).toEqual([{ field: 'kind', one_of: ['letter', 'chart'] }])
    expect(toggledValue(toggledValue(two, 'kind', 'letter'), 'kind', 'chart')).toEqual([])
  })
  it('come from an address, and nonsense does not', () => {
    expect(parsedFilters('[{"field":"kind","one_of":["a"]},3]')).toEqual([{ field: 'kind', one_of: ['a'] }])
    for (const text of [null, '', 'x', '{}', '3']) expect(parsedFilters(text)).toEqual([])
  })
})

it('a rule is said in one line', () => {
  expect(
    ruleText({ when: { query: 'bell' }, do: { lift: ['a', 'b'], by: 2 }, reason: '', until: null, on: true }),
  ).toBe('“bell”: lift records a b × 2')
  expect(ruleText({ when: {}, do: { look_in: 'maker' }, reason: '', until: null, on: true })).toBe(
    'every query: look for it only in maker',
  )
})

describe('the names of readings', () => {
  const reading = (field: string, chain: string): Reading => ({
    ...{ field, chain, query_chain: null, weight: 1, k1: 1.2, b: 0.75 },
    ...{ share: 0, slack: true, nearness: null, synonyms: 0.6 },
  })
  const [title, text, stems, again] = [
    reading('title', 'words'),
    reading('text', 'words'),
    reading('text', 'words > stem(en)'),
    reading('text', 'words'),
  ] as const

  it('stay with the readings when one before them is taken out', () => {
    const names = namesOfReadings([title, text, stems])
    expect(namesOfReadings([text, stems])).toEqual(names.slice(1))
    expect(new Set(namesOfReadings([title, text, stems, again])).size).toBe(4)
  })

  it('stay while the chain of a field read once is written', () => {
    expect(namesOfReadings([title])).toEqual(namesOfReadings([{ ...title, chain: 'words > lower' }]))
  })
})

import { describe, expect, it } from 'vitest'
import type { FieldProfile } from '../api/records'
import { distinctText, distribution, numberText, onLine, shareText, spreadText, type Spread } from './profile'

const field = (change: Partial<FieldProfile>): FieldProfile => ({
  name: 'year',
  records: 0,
  filled: 0,
  values: 0,
  distinct: 0,
  distinct_is_exact: true,
  lengths: null,
  numbers: null,
  top: [],
  languages: [],
  samples: [],
  oddities: [],
  ...change,
})

describe('a field at a glance', () => {
  it('never says all or none for nearly', () => {
    expect([
      shareText(330, 330),
      shareText(329, 330),
      shareText(1, 330),
      shareText(0, 330),
      shareText(0, 0),
      shareText(165, 330),
    ]).toEqual(['100 %', '> 99 %', '< 1 %', '0 %', '–', '50 %'])
  })

  const spread = (change: Partial<Spread>): Spread => ({
    bins: [],
    even: true,
    least: 0,
    median: 0,
    greatest: 0,
    unit: '',
    ...change,
  })

  it('lays even bins along an even axis, and what is all the same has a bar', () => {
    const bins = [
      { low: 1800, high: 1850, count: 3 },
      { low: 1850, high: 1900, count: 12_000 },
    ]
    expect(onLine(spread({ bins, unit: 'characters' }))).toEqual({
      type: 'linear',
      ticks: null,
      bars: [
        { from: 1800, to: 1850, count: 3, title: '1800 to 1850 characters: 3' },
        { from: 1850, to: 1900, count: 12_000, title: '1850 to 1900 characters: 12,000' },
      ],
    })
    const same = onLine(spread({ bins: [{ low: 7, high: 7, count: 2 }] }))
    expect(same.bars).toEqual([{ from: 6.5, to: 7.5, count: 2, title: '7: 2' }])
  })

  it('lays growing bins along an axis of factors, zero before the first', () => {
    const bins = [
      { low: 0, high: 1, count: 4 },
      { low: 1, high: 10, count: 2 },
      { low: 10, high: 100, count: 1 },
    ]
    const { type, bars, ticks } = onLine(spread({ bins, even: false }))
    expect(type).toBe('log')
    expect(bars.map(({ from, to }) => [from, to])).toEqual([
      [0.1, 1],
      [1, 10],
      [10, 100],
    ])
    expect(ticks).toEqual([
      { at: 0.1, text: '0' },
      { at: 1, text: '1' },
      { at: 10, text: '10' },
      { at: 100, text: '100' },
    ])
    const many = Array.from({ length: 14 }, (_, i) => ({ low: 2 ** i, high: 2 ** (i + 1), count: 1 }))
    expect(onLine(spread({ bins: many, even: false })).ticks?.map(({ text }) => text)).toEqual([
      ...['1', '8', '64', '512', '4096'],
    ])
  })

  it('writes numbers as people do', () => {
    expect([1846, -3, 9999, 10_000, 0.5, 1 / 3, 1e-7, 12_345_678.9, 0].map(numberText)).toEqual([
      ...['1846', '-3', '9999', '10,000', '0.5', '0.3333', '1.0e-7', '1.2e+7', '0'],
    ])
    expect(spreadText(spread({ least: 3, median: 40, greatest: 20_000, unit: 'characters' }))).toBe(
      'from 3 to 20,000 characters, the middle one 40',
    )
    expect(spreadText(spread({ least: 7, median: 7, greatest: 7 }))).toBe('all 7')
  })

  it('shows numbers where at least half of the values are numbers, lengths otherwise', () => {
    const numbers = { ...spread({}), bins: [{ low: 1690, high: 1985, count: 3 }] }
    const lengths = { ...spread({}), bins: [{ low: 1, high: 2, count: 7 }] }
    expect(distribution(field({ numbers, lengths, values: 6 }))?.bins).toBe(numbers.bins)
    expect(distribution(field({ numbers, lengths, values: 7 }))?.bins).toBe(lengths.bins)
    expect(distribution(field({}))).toBeNull()
    expect(distinctText(field({ distinct: 5000, distinct_is_exact: false }))).toBe('> 5,000')
  })
})

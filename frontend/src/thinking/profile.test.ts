import { describe, expect, it } from 'vitest'
import type { FieldProfile } from '../api/records'
import { bars, distinctText, distribution, shareText } from './profile'

const field = (change: Partial<FieldProfile>): FieldProfile => ({
  name: 'year',
  records: 0,
  filled: 0,
  values: 0,
  distinct: 0,
  distinct_is_exact: true,
  longest: 0,
  lengths: [],
  numbers: [],
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

  it('draws bars that fill the room, and shows what is little', () => {
    const drawn = bars(
      [
        { low: 1, high: 2, count: 1 },
        { low: 2, high: 4, count: 0 },
        { low: 4, high: 8, count: 1000 },
      ],
      'characters',
      30,
      20,
    )
    expect(drawn.map(({ height }) => height)).toEqual([1.5, 0, 20])
    expect(drawn.map(({ x }) => x)).toEqual([0, 10, 20])
    expect(drawn[2]?.title).toBe('4 to 8 characters: 1,000')
    expect(bars([], '', 30, 20)).toEqual([])
  })

  it('shows numbers where most values are numbers, lengths otherwise', () => {
    const numbers = [{ low: 1690, high: 1985, count: 3 }]
    const lengths = [{ low: 1, high: 2, count: 7 }]
    expect(distribution(field({ numbers, lengths, values: 4 })).bins).toBe(numbers)
    expect(distribution(field({ numbers, lengths, values: 10 })).bins).toBe(lengths)
    expect(distinctText(field({ distinct: 5000, distinct_is_exact: false }))).toBe('> 5,000')
  })
})

import { describe, expect, it } from 'vitest'
import { bytesText, countText, deltaText, elapsedText, measureText, scoreDigits, weightText } from './figures'

describe('bytes', () => {
  it('are shown as large as they are', () => {
    expect([999, 1_500, 250_000, 1_903_837, 2_345_000_000].map(bytesText)).toEqual([
      '999 B',
      '1.5 kB',
      '250 kB',
      '1.9 MB',
      '2.35 GB',
    ])
  })
})

describe('scores of a list', () => {
  it.each([
    [[], 3],
    [[12.5], 3],
    [[2.5, 1.25, 1.25], 3],
    // Of ranks summed up, neighbours differ by little.
    [[0.0164, 0.0161, 0.0159], 4],
    [[0.01639, 0.01612, 0.01587], 4],
    [[0.016393, 0.016388, 0.01], 6],
    // What is the same is written the same, and nobody reads more than eight.
    [[0.5, 0.5], 3],
    [[0.5, 0.4999999999], 8],
  ])('%j have %i decimals', (scores, digits) => {
    expect(scoreDigits(scores)).toBe(digits)
  })
})

describe('numbers as they are written', () => {
  it('gives measures three decimals, and a dash where there is none', () => {
    expect([0, 0.6178, 1].map(measureText)).toEqual(['0.000', '0.618', '1.000'])
    expect(measureText(undefined)).toBe('–')
  })

  it('signs a difference with a true minus, and zero with nothing', () => {
    expect([0.0221, -0.0221, 0.0004, -0.0004, 0].map(deltaText)).toEqual([
      '+0.022',
      '\u22120.022',
      '0.000',
      '0.000',
      '0.000',
    ])
  })

  it('groups thousands, rounds times and weights', () => {
    expect(countText(1_234_567)).toBe('1,234,567')
    expect([0.26, 9.94, 12.4].map(elapsedText)).toEqual(['0.3 ms', '9.9 ms', '12 ms'])
    expect([3, 0.1 + 0.2, 4.55].map(weightText)).toEqual(['3', '0.3', '4.55'])
  })
})

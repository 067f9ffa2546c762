import { describe, expect, it } from 'vitest'
import { countText, deltaText, elapsedText, measureText, weightText } from './figures'

describe('numbers as they are written', () => {
  it('gives measures three decimals, and a dash where there is none', () => {
    expect([0, 0.6178, 1].map(measureText)).toEqual(['0.000', '0.618', '1.000'])
    expect(measureText(undefined)).toBe('–')
  })

  it('signs a difference with a true minus, and zero with nothing', () => {
    expect([0.0221, -0.0221, 0.0004, -0.0004, 0].map(deltaText)).toEqual(['+0.022', '\u22120.022', '0.000', '0.000', '0.000'])
  })

  it('groups thousands, rounds times and weights', () => {
    expect(countText(1_234_567)).toBe('1,234,567')
    expect([0.26, 9.94, 12.4].map(elapsedText)).toEqual(['0.3 ms', '9.9 ms', '12 ms'])
    expect([3, 0.1 + 0.2, 4.55].map(weightText)).toEqual(['3', '0.3', '4.55'])
  })
})

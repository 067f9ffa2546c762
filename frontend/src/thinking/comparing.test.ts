import { describe, expect, it } from 'vitest'
import { along, byLoss, detectableText, mark, pText, shareText, sliceText, type Query } from './comparing'

const query = (name: string, first: number, second: number): Query => ({
  query_id: name,
  query: name,
  tags: [],
  first,
  second,
  unjudged: 0,
})
describe('a comparison', () => {
  it('begins with the largest losses', () => {
    expect(byLoss([query('a', 0.1, 0.9), query('b', 0.9, 0.1), query('c', 0.5, 0.5)]).map((one) => one.query)).toEqual([
      'b',
      'c',
      'a',
    ])
  })
  it('tells no difference that a measure cannot have', () => {
    expect(detectableText(0.2, 1200)).toBe('a difference of 0.200, four times in five; half of it takes 1,200 queries')
    expect(detectableText(1, 9)).toContain('a difference of 1.000')
    expect(detectableText(1.0001, 9)).toBe('no difference that there can be: there are too few queries')
  })
  it('says what the p-value of one tag among several is worth', () => {
    const slice = (detectable: number | null) =>
      sliceText({ comparison: { randomisation: 0.0412, detectable } as never, corrected: 0.4532 })
    expect(slice(null)).toBe('randomisation p = 0.041, corrected for the number of tags (Holm) p = 0.453')
    expect(slice(1.137)).toBe(slice(null))
    expect(slice(0.2)).toContain('; so few queries find a difference of 0.200 four times in five')
  })
  it('writes small shares and p-values honestly', () => {
    expect([pText(0.0001), pText(0.0412)]).toEqual(['p < 0.001', 'p = 0.041'])
    expect([shareText(0), shareText(0.0004), shareText(0.0412), shareText(0.5)]).toEqual([
      '0.0 %',
      '< 0.1 %',
      '4.1 %',
      '50 %',
    ])
    expect([0.0001, 0.005, 0.04, 0.05].map(mark)).toEqual(['***', '**', '*', ''])
    expect([along(-1, 90), along(0.5, 90), along(2, 90)]).toEqual([0, 45, 90])
  })
})

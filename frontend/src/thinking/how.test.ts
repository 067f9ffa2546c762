import { describe, expect, it } from 'vitest'
import { howParam, howText, parsedHow } from './how'

describe('how figures are made', () => {
  it('stands in the address where it is not as usual', () => {
    expect(howParam(parsedHow(null))).toBeNull()
    const param = 'ties:best_first,without_relevant:empty_is_right,weighted'
    expect(howParam(parsedHow(param))).toBe(param)
    expect(parsedHow('unjudged:left_out').unjudged).toBe('left_out')
  })
  it('is as usual where the address says something else', () => {
    expect(howParam(parsedHow('ties:perhaps,colour:red,toString:x,'))).toBeNull()
  })
  it('is said in a sentence', () => {
    expect(howText(parsedHow(null))).toBe(
      'an unjudged record counts as off topic; a query without a relevant record counts 0; records of equal score stand by key.',
    )
    expect(howText(parsedHow('weighted'))).toContain('a query weighs as often as it was asked')
  })
})

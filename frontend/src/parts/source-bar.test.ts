import { describe, expect, it } from 'vitest'
import { readingShade } from './source-bar'

describe('the swatches of readings', () => {
  it('are eight, and begin again after them', () => {
    const eight = Array.from({ length: 8 }, (_, i) => readingShade(i))
    expect(new Set(eight).size).toBe(8)
    expect(readingShade(8)).toBe(eight[0])
    expect(eight[3]).toContain('37%')
  })
})

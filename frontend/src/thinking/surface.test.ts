import { describe, expect, it } from 'vitest'
import { surfaceOf, surfaceSays, valuesOfSurface } from './surface'

const turned = (mean: number | null) => ({ mean, band: null, gained: 0, lost: 0 })

describe('the values of a surface', () => {
  it('go from end to end, with where the knob stands among them', () => {
    expect(valuesOfSurface({ from: 0, to: 8, step: 0.01, value: 2.5 })).toEqual([0, 1, 2, 2.5, 3, 4, 5, 6, 7, 8])
    expect(valuesOfSurface({ from: 0, to: 8, step: 0.01, value: 3 })).toHaveLength(9)
    expect(valuesOfSurface({ from: 0, to: 8, step: 0.01, value: 20 }).at(-1)).toBe(20)
    expect(valuesOfSurface({ from: 0, to: 2, step: 1, value: 1 })).toEqual([0, 1, 2])
  })
})

describe('a surface', () => {
  it('is read row by row, without what does not count', () => {
    expect(surfaceOf([turned(0.1), turned(0.2), turned(null), turned(0.4)], 2)).toEqual([
      { row: 0, column: 0, mean: 0.1 },
      { row: 0, column: 1, mean: 0.2 },
      { row: 1, column: 1, mean: 0.4 },
    ])
  })
  const cell = (row: number, mean: number) => ({ row, column: 0, mean })
  it('says what the best of it would gain', () => {
    expect(surfaceSays([cell(0, 0.5), cell(1, 0.53)], cell(0, 0.5))).toEqual({
      words: 'The best comes to 0.530, +0.030.',
      best: cell(1, 0.53),
    })
    expect(surfaceSays([cell(0, 0.5), cell(1, 0.53)], undefined).words).toBe('The best comes to 0.530.')
  })
  it('says so where there is nothing to gain', () => {
    expect(surfaceSays([cell(0, 0.53), cell(1, 0.5)], cell(0, 0.53)).best).toBeNull()
    expect(surfaceSays([cell(0, 0.53), cell(1, 0.5)], cell(0, 0.53)).words).toMatch(/at the best/)
    expect(surfaceSays([cell(0, 0.5), cell(1, 0.5004)], cell(0, 0.5)).words).toMatch(/no difference/)
    expect(surfaceSays([], undefined)).toEqual({ words: 'No query counts here.', best: null })
  })
})

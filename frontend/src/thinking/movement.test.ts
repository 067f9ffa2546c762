import { describe, expect, it } from 'vitest'
import { binned, movement, nextLoss, rankMovement, waterline } from './movement'

describe('movement', () => {
  it('calls still what would be shown as 0.000', () => {
    expect([0.0004, -0.0004, 0.0006, -0.0006].map(movement)).toEqual(['still', 'still', 'gained', 'lost'])
  })
})

describe('waterline', () => {
  const baseline = { a: 0.5, b: 0.5, c: 0.5, d: 0.5 }
  const line = waterline({ a: 0.4, b: 0.9, c: 0.5, d: 0.7 }, baseline)

  it('sorts strokes from the greatest gain to the greatest loss and counts ties apart', () => {
    expect(line.strokes.map((stroke) => stroke.queryId)).toEqual(['b', 'd', 'a'])
    expect([line.gained, line.lost, line.still]).toEqual([2, 1, 1])
  })

  it('leaves no stroke out when they share room', () => {
    const strokes = Array.from({ length: 1000 }, (_, i) => ({ queryId: `q${i}`, delta: 1 - i / 500 }))
    const bins = binned(strokes, 120)
    expect(bins.length).toBe(120)
    expect(bins.reduce((sum, bin) => sum + bin.strokes.length, 0)).toBe(1000)
  })
})

describe('rankMovement', () => {
  it('is positive for a row that rose, null for one that is new', () => {
    expect(rankMovement('c', 1, ['a', 'b', 'c'])).toBe(2)
    expect(rankMovement('a', 2, ['a', 'b', 'c'])).toBe(-1)
    expect(rankMovement('z', 1, ['a'])).toBeNull()
  })
})

describe('the walk from the worst loss', () => {
  const line = waterline({ a: 0.9, b: 0.1, c: 0.4, d: 0.5 }, { a: 0.5, b: 0.5, c: 0.5, d: 0.5 })

  it('begins at the worst, goes up to the least, and begins again', () => {
    expect(nextLoss(line, null)?.queryId).toBe('b')
    expect(nextLoss(line, 'a')?.queryId).toBe('b')
    expect(nextLoss(line, 'b')?.queryId).toBe('c')
    expect(nextLoss(line, 'c')?.queryId).toBe('b')
  })

  it('is none where nothing lost', () => {
    expect(nextLoss(waterline({ a: 1, d: 0.5 }, { a: 0.5, d: 0.5 }), null)).toBeNull()
  })
})

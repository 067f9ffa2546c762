import { describe, expect, it } from 'vitest'
import { pairs } from './side-by-side'

const token = (text: string, start: number, end = start + text.length) => ({
  text,
  start,
  end,
  position: 0,
  span: 1,
  kept: false,
  payload: null,
})

describe('two chains on one text', () => {
  it('stand stretch by stretch, and differ where their terms do', () => {
    const first = [token('the', 0), token('harbors', 4)]
    const second = [token('harbor', 4, 11)]
    expect(pairs(first, second)).toEqual([
      { start: 0, end: 3, first: ['the'], second: [], differs: true },
      { start: 4, end: 11, first: ['harbors'], second: ['harbor'], differs: true },
    ])
  })
  it('gather what overlaps, in any order of the same terms', () => {
    const first = [token('skr2070', 0), token('x', 9)]
    const second = [token('skr', 0), token('2070', 3), token('x', 9)]
    expect(pairs(first, second).map((pair) => [pair.first, pair.second, pair.differs])).toEqual([
      [['skr2070'], ['skr', '2070'], true],
      [['x'], ['x'], false],
    ])
  })
})

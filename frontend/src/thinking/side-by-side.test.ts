import { describe, expect, it } from 'vitest'
import { stretches } from './side-by-side'

const token = (text: string, start: number, end = start + text.length) => ({
  text,
  start,
  end,
  position: 0,
  span: 1,
  kept: false,
  payload: null,
})

describe('chains on one text', () => {
  it('stand stretch by stretch, and differ where their terms do', () => {
    const first = [token('the', 0), token('harbors', 4)]
    const second = [token('harbor', 4, 11)]
    expect(stretches([first, second])).toEqual([
      { start: 0, end: 3, made: [['the'], []], differs: true },
      { start: 4, end: 11, made: [['harbors'], ['harbor']], differs: true },
    ])
  })
  it('gather what overlaps, in any order of the same terms', () => {
    const first = [token('skr2070', 0), token('x', 9)]
    const second = [token('skr', 0), token('2070', 3), token('x', 9)]
    expect(stretches([first, second]).map(({ made, differs }) => [...made, differs])).toEqual([
      [['skr2070'], ['skr', '2070'], true],
      [['x'], ['x'], false],
    ])
    const turned = [token('b', 0, 4), token('a', 0, 4)]
    expect(stretches([[token('a', 0, 4), token('b', 0, 4)], turned])[0]?.differs).toBe(false)
  })
  it('differ where one of many does', () => {
    const same = [token('fog', 0)]
    expect(stretches([same, same, same])[0]).toMatchObject({ made: [['fog'], ['fog'], ['fog']], differs: false })
    expect(stretches([same, same, [token('FOG', 0)]])[0]?.differs).toBe(true)
    expect(stretches([same, same, []])[0]).toMatchObject({ made: [['fog'], ['fog'], []], differs: true })
  })
})

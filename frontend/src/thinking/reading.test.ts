import { describe, expect, it } from 'vitest'
import { areDoubtsOf, doubtsOf, pagesOfThing, sureText, thingField, worstShare } from './reading'

describe('how well a page was read', () => {
  it('marks its doubtful words', () => {
    expect(doubtsOf({ field: 'text', doubts: [{ start: 3, end: 7 }] })).toEqual({ text: [[3, 7]] })
  })
  it('tells whether its doubts are of a text', () => {
    const page = { doubts: [{ start: 4, end: 9, word: 'frefh' }] }
    expect(areDoubtsOf(page, 'the frefh wind')).toBe(true)
    expect(areDoubtsOf(page, 'the fresh wind')).toBe(false)
    expect(areDoubtsOf(page, 'a frefh wind')).toBe(false)
    expect(areDoubtsOf({ doubts: [] }, 'whatever')).toBe(true)
  })
  it('says shares that tell few from none', () => {
    expect(worstShare({ doubtful: 0, words: 0 })).toBe('0 %')
    expect(worstShare({ doubtful: 0, words: 9 })).toBe('0 %')
    expect(worstShare({ doubtful: 1, words: 300 })).toBe('< 1 %')
    expect(worstShare({ doubtful: 1, words: 200 })).toBe('1 %')
    expect(worstShare({ doubtful: 9, words: 9 })).toBe('100 %')
    expect(sureText(0.905)).toBe('91 %')
  })
})

describe('pages of a thing', () => {
  const page = (key: string, page: unknown, text: [number, number][]) => ({
    key,
    field_values: { name: `Log, page ${String(page)}`, page, scan: `${key}.png`, at: `my%20text 4 0 1 1 0` },
    marks: { 'my text': text, title: [[0, 3] as [number, number]] },
  })
  const roles = [
    { name: 'name', role: 'title' },
    { name: 'scan', role: 'picture' },
    { name: 'at', role: 'places' },
  ]
  it('come in their order, those on which something is marked, with how much', () => {
    const found = pagesOfThing(
      [
        page('c', 10, [[0, 4]]),
        page('a', 2, [
          [0, 4],
          [5, 9],
        ]),
        page('b', 3, []),
        page('d', 'x', [[0, 1]]),
      ],
      roles,
    )
    expect(found.map(({ key, hits, picture }) => [key, hits, picture])).toEqual([
      ['a', 2, 'a.png'],
      ['c', 1, 'c.png'],
      ['d', 1, 'd.png'],
    ])
    expect(found[0]?.name).toBe('Log, page 2')
  })
  it('are told by what the list shows one of, else by the field that pages come with', () => {
    const fields = [{ name: 'thing' }, { name: 'volume' }]
    expect(thingField(fields, 'volume')).toBe('volume')
    expect(thingField(fields, null)).toBe('thing')
    expect(thingField(fields, 'gone')).toBeNull()
    expect(thingField([], null)).toBeNull()
  })
})

import { describe, expect, it } from 'vitest'
import { pieces, shortened } from './marks'

const whole = (made: { text: string }[]) => made.map((piece) => piece.text).join('')

describe('pieces', () => {
  it('puts the marks on the right letters, characters beyond the first plane included', () => {
    expect(pieces('⚓𝄞 harbor', [[3, 9]])).toEqual([
      { text: '⚓𝄞 ', marked: false },
      { text: 'harbor', marked: true },
    ])
  })

  it('gives the text back whole, whatever the marks', () => {
    const text = 'A pale harbor in fog'
    for (const marks of [
      [],
      [[0, 20]],
      [
        [2, 6],
        [7, 13],
      ],
      [[17, 20]],
    ] as [number, number][][]) {
      expect(whole(pieces(text, marks))).toBe(text)
    }
  })
})

describe('what a list shows of a text', () => {
  const text = `${'sand and water and '.repeat(20)}a harpoon and its rope ${'lay in the shed '.repeat(20)}`
  const passage = (start: number, end: number) => ({
    field: 'notes',
    start,
    end,
    text: text.slice(start, end),
    marks: [[2, 9]] as [number, number][],
  })

  it('is all of a text as long as there is room, with its marks', () => {
    const short = `harpoon${' '.repeat(112)}x`
    expect(shortened(short, [[0, 7]], undefined)).toEqual([
      { text: 'harpoon', marked: true },
      { text: short.slice(7), marked: false },
    ])
    expect(whole(shortened(`${short}y`, [], undefined))).not.toBe(`${short}y`)
  })

  it('is the passage of a longer one, and says where the text goes on', () => {
    const start = text.indexOf('a harpoon')
    const shown = shortened(text, [], passage(start, start + 22))
    expect(whole(shown)).toBe('… a harpoon and its rope\u00a0…')
    expect(shown.filter((piece) => piece.marked)).toEqual([{ text: 'harpoon', marked: true }])
    expect(whole(shortened(text, [], passage(0, 10)))).toBe(`${text.slice(0, 10)}\u00a0…`)
    expect(whole(shortened(text, [], passage(700, text.length)))).toBe(`… ${text.slice(700)}`)
  })

  it('is its beginning where the words are not found, cut at a blank if there is one', () => {
    expect(whole(shortened(text, [], undefined))).toBe(`${text.slice(0, 118)}\u00a0…`)
    expect(text[118]).toBe(' ')
    expect(whole(shortened('雨'.repeat(121), [], undefined))).toBe(`${'雨'.repeat(120)}\u00a0…`)
  })
})

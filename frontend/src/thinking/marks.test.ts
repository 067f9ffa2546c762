import { describe, expect, it } from 'vitest'
import { pieces, snippet } from './marks'

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

describe('snippet', () => {
  const text = `${'sand and water and '.repeat(20)}a harpoon and its rope ${'lay in the shed '.repeat(20)}`

  it('leaves a short text as it is', () => {
    expect(snippet('short', [], 50)).toEqual({ pieces: [{ text: 'short', marked: false }], cut: false })
  })

  it('shows the stretch with the marks, and keeps them on their words', () => {
    const start = text.indexOf('harpoon')
    const shown = snippet(text, [[start, start + 7]], 120)
    expect(shown.pieces.filter((piece) => piece.marked)).toEqual([{ text: 'harpoon', marked: true }])
    expect(whole(shown.pieces).length).toBeLessThan(140)
    expect(whole(shown.pieces).startsWith('… ')).toBe(true)
  })
})

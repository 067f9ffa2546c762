import { describe, expect, it } from 'vitest'
import type { Row } from './endpoint'
import { pieces, shortly, textOf } from './marked'

const row = (fields: Record<string, unknown>, more: Partial<Row> = {}): Row => ({
  ...{ rank: 1, key: 'a', fields, marks: {}, passages: [], others: 0 },
  ...more,
})

describe('a marked text', () => {
  it('is cut where its marks are', () => {
    expect(pieces('brass lamp', [[6, 10]])).toEqual([
      { text: 'brass ', marked: false },
      { text: 'lamp', marked: true },
    ])
    expect(pieces('lamp', [])).toEqual([{ text: 'lamp', marked: false }])
    expect(pieces('', [])).toEqual([])
  })

  it('counts pictures as two, as strings do', () => {
    expect(pieces('🐟 eel', [[3, 6]])[1]).toEqual({ text: 'eel', marked: true })
  })

  it('passes over marks that lie beyond it, behind one another or nowhere', () => {
    expect(pieces('eel', [[1, 9]])).toEqual([{ text: 'eel', marked: false }])
    const told = pieces('eel pie', [
      [0, 3],
      [2, 5],
      [4, 4],
    ])
    expect(told.map((one) => one.text)).toEqual(['eel', ' pie'])
  })
})

describe('a field', () => {
  it('of several values is one text', () => {
    expect(textOf(['brass', 'tin'])).toBe('brass\ntin')
    expect([textOf(12), textOf(null), textOf(undefined), textOf(false)]).toEqual(['12', '', '', 'false'])
  })

  it('in short is its best passage, with what stands around it told', () => {
    const passages = [{ field: 'text', start: 4, end: 8, text: 'lamp', marks: [[0, 4]] as [number, number][] }]
    const told = shortly(row({ text: 'the lamp of the ness' }, { passages }), 'text')
    expect(told).toEqual({ text: 'lamp', marks: [[0, 4]], before: true, after: true })
  })

  it('in short is its beginning where there is no passage, cut between words', () => {
    const long = 'lantern '.repeat(60)
    const told = shortly(
      row(
        { text: long },
        {
          marks: {
            text: [
              [0, 7],
              [300, 307],
            ],
          },
        },
      ),
      'text',
    )
    expect(told.text).toBe('lantern '.repeat(30).trimEnd())
    expect([told.after, told.marks]).toEqual([true, [[0, 7]]])
    const one = shortly(row({ text: 'x'.repeat(500) }), 'text')
    expect(one.text.length).toBe(240)
    // 240 letters are shown whole, one more is not.
    expect(shortly(row({ text: 'x'.repeat(240) }), 'text').after).toBe(false)
    expect(shortly(row({ text: 'x'.repeat(241) }), 'text').after).toBe(true)
  })

  it('is not cut within a picture', () => {
    const told = shortly(row({ text: 'x'.repeat(239) + '🐟' + 'x'.repeat(20) }), 'text')
    expect(told.text.length).toBe(239)
  })
})

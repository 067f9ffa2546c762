import { describe, expect, it } from 'vitest'
import { changedPieces, gainText, measuredText, pointsBySure, sureText } from './corrections'

const MEANT = { said: '🐋 sextent of lead', query: '🐋 sextant of lead', sure: 0.999, found: 0, finds: 1, taken: false }
const CHANGES = [{ start: 2, end: 9, said: 'sextent', meant: 'sextant' }]

describe('another query', () => {
  it('has its changed words marked, whatever stands before them', () => {
    expect(changedPieces({ said: MEANT.said, changes: CHANGES })).toEqual([
      { text: '🐋 ', marked: false },
      { text: 'sextant', marked: true },
      { text: ' of lead', marked: false },
    ])
  })
  it('says what it would find, and is never quite sure', () => {
    expect(gainText({ ...MEANT, changes: CHANGES })).toBe('1 record holds all of its words, none those that were typed')
    expect(gainText({ ...MEANT, changes: CHANGES, found: 2, finds: 1200, sure: 0.8 })).toBe(
      '1,200 records hold all of its words, 2 those that were typed',
    )
    expect([1, 0.999, 0.8].map((sure) => sureText({ ...MEANT, changes: [], sure }))).toEqual([
      '99 % sure',
      '99 % sure',
      '80 % sure',
    ])
  })
})

describe('the curve over how sure a correction has to be', () => {
  it('has a line of quality only where a set was measured', () => {
    const step = { sure: 0.8, told: 1, mended: 0.9, wrong: 0.01, touched: 0 }
    expect(pointsBySure({ steps: [{ ...step, mean: null }] })).toEqual([
      { sure: 0.8, what: 'mended', value: 0.9 },
      { sure: 0.8, what: 'touched', value: 0 },
    ])
    expect(pointsBySure({ steps: [{ ...step, mean: 0.5 }] }).at(-1)).toEqual({ sure: 0.8, what: 'nDCG@10', value: 0.5 })
  })
})

describe('what corrections do', () => {
  const told = { sure: 0.8, compared: null, queries: [], right_changed: 0, right_made: 20, right_touched: 1, steps: [] }
  const slip = { kind: 'left out' as const, made: 10, mended: 8, wrong: 1 }
  it('is told of slips by themselves', () => {
    expect(measuredText({ ...told, slips: [slip, { ...slip, mended: 10, wrong: 0 }] })).toEqual([
      'Of 20 made-up slips 18 are mended, and 1 made something else of; 1 of 20 right ones are touched.',
    ])
    expect(measuredText({ ...told, slips: [] })[0]).toContain('Hardly a word')
  })
})

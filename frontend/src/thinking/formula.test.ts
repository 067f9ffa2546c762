import { describe, expect, it } from 'vitest'
import { formulaOffer, formulaWrong } from './formula'

const NAMES = ['words', 'nearness', 'space.everyday', 'signal."visitor requests"']

describe('a formula as it is typed', () => {
  it('offers names and functions that begin with what stands before the caret', () => {
    expect(formulaOffer('words + sp', 10, NAMES)).toEqual({
      from: 8,
      to: 10,
      options: [{ insert: 'space.everyday', note: '' }],
    })
    expect(formulaOffer('2 * S', 5, NAMES)?.options.map((one) => one.insert)).toEqual([
      'space.everyday',
      'signal."visitor requests"',
      'sqrt(',
    ])
    expect(formulaOffer('min(wo, 1)', 6, NAMES)).toMatchObject({ from: 4, to: 6 })
  })

  it('offers nothing where nothing was begun, and not what stands there already', () => {
    expect(formulaOffer('words + ', 8, NAMES)).toBeNull()
    expect(formulaOffer('words', 5, NAMES)).toBeNull()
    expect(formulaOffer('12', 2, NAMES)).toBeNull()
  })

  it('marks the name that is wrong, at its place', () => {
    const problems = [
      { where: 'kinds[0].blend.formula', what: 'line 1, column 1: not this one.' },
      { where: 'blend.formula', what: 'line 2, column 3: there is no "space.everydy".' },
    ]
    expect(formulaWrong('words\n+ space.everydy * 2', 'blend.formula', problems)).toEqual({
      from: 8,
      to: 21,
      message: 'there is no "space.everydy".',
    })
    expect(formulaWrong('a $ b', 'f', [{ where: 'f', what: 'line 1, column 3: "$" cannot stand.' }])).toMatchObject({
      from: 2,
      to: 3,
    })
    expect(formulaWrong('words', 'f', [{ where: 'f', what: 'is missing' }])).toEqual({
      from: 0,
      to: 5,
      message: 'is missing',
    })
    expect(formulaWrong('words', 'blend.formula', [])).toBeNull()
  })
})

import { describe, expect, it } from 'vitest'
import { around, beside, hitOf, lookedAt, placeAt, placesOf, wordBeside, wordOf } from './page-places'

// “the light-” at the end of a line, “house bell” on the next one; “bell” of two parts that touch.
const text = Array.from('the lighthouse bell')
const places = placesOf([
  [0, 3, 0, 0, 30, 20, 0, 0.9],
  [4, 9, 40, 0, 50, 20, 0, 0.5],
  [9, 14, 0, 30, 50, 20, 1, null],
  [15, 19, 60, 30, 40, 20, 1, 1],
])

describe('a hit', () => {
  it('has the boxes of all its letters and no others', () => {
    expect(hitOf(places, [4, 14]).boxes.map((box) => box.x)).toEqual([40, 0])
    expect(hitOf(places, [8, 9]).boxes.map((box) => box.x)).toEqual([40])
    expect(hitOf(places, [3, 4]).boxes).toEqual([])
  })
  it('is framed whole', () => {
    expect(around(hitOf(places, [4, 14]).boxes)).toEqual({ x: 0, y: 0, width: 90, height: 50 })
    expect(around([])).toBeNull()
  })
  it('is looked at with half the page around it, within the page', () => {
    const page = { width: 400, height: 600 }
    expect(lookedAt({ x: 0, y: 0, width: 40, height: 20 }, page)).toEqual({ x: 0, y: 0, width: 200, height: 120 })
    expect(lookedAt({ x: 180, y: 290, width: 40, height: 20 }, page)).toEqual({
      x: 100,
      y: 240,
      width: 200,
      height: 120,
    })
    expect(lookedAt({ x: 380, y: 590, width: 20, height: 10 }, page)).toEqual({
      x: 200,
      y: 480,
      width: 200,
      height: 120,
    })
    expect(lookedAt({ x: 0, y: 0, width: 390, height: 590 }, page)).toEqual({ x: 0, y: 0, width: 400, height: 600 })
  })
})

describe('a word', () => {
  it('is found by a point, edges included, the smallest of several', () => {
    expect(placeAt(places, 30, 20)?.start).toBe(0)
    expect(placeAt(places, 31, 20)).toBeNull()
    const over = placesOf([
      [0, 3, 0, 0, 100, 100, 0, null],
      [4, 9, 10, 10, 20, 20, 0, null],
    ])
    expect(placeAt(over, 15, 15)?.start).toBe(4)
  })
  it('is whole, whichever of its parts was met', () => {
    expect(places.map((one) => wordOf(text, one))).toEqual([
      [0, 3],
      [4, 14],
      [4, 14],
      [15, 19],
    ])
  })
  it('follows another one, and the first one the last', () => {
    expect(wordBeside(text, places, null, 1)).toEqual([0, 3])
    expect(wordBeside(text, places, [4, 14], 1)).toEqual([15, 19])
    expect(wordBeside(text, places, [15, 19], 1)).toEqual([0, 3])
    expect(wordBeside(text, places, [4, 14], -1)).toEqual([0, 3])
    expect(wordBeside(text, places, [0, 3], -1)).toEqual([15, 19])
    expect(wordBeside(text, [], null, 1)).toBeNull()
  })
  it('stands among others', () => {
    expect(beside(Array.from('a b\nc HIT d\n\ne f'), [6, 9], 2)).toEqual(['b c ', ' d e'])
    expect(beside(text, [0, 3], 1)).toEqual(['', ' lighthouse'])
  })
})

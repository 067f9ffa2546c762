import { describe, expect, it } from 'vitest'
import {
  barsOf,
  curveOf,
  curveSays,
  grafted,
  meanAt,
  placeOfChange,
  stageSays,
  valueAt,
  valuesAlong,
  withAt,
} from './curve'

const turned = (mean: number | null, worst?: number, best?: number) => ({
  mean,
  band: worst === undefined || best === undefined ? null : { worst, best },
  gained: 0,
  lost: 0,
})

describe('where two documents differ', () => {
  const before = {
    readings: [
      { weight: 1, b: 0 },
      { weight: 2, b: 0 },
    ],
    blend: { k: 60 },
  }
  it('is a path of names and numbers', () => {
    const after = { ...before, readings: [before.readings[0], { weight: 3, b: 0 }] }
    expect(placeOfChange(before, after)).toEqual(['readings', 1, 'weight'])
  })
  it('is nowhere where nothing or more than one thing differs', () => {
    expect(placeOfChange(before, structuredClone(before))).toBeNull()
    expect(placeOfChange(before, { readings: [{ weight: 9, b: 9 }, before.readings[1]], blend: { k: 60 } })).toBeNull()
  })
  it('has a value, or none where there is no such place', () => {
    expect(valueAt(before, ['readings', 1, 'weight'])).toBe(2)
    expect(valueAt(before, ['readings', 2, 'weight'])).toBeUndefined()
    expect(valueAt(before, [])).toBe(before)
  })
  it('is put into another, and nothing else of it', () => {
    const other = {
      readings: [
        { weight: 7, b: 7 },
        { weight: 8, b: 8 },
      ],
      blend: { k: 9 },
    }
    expect(grafted(before, other, ['readings', 1, 'weight'])).toEqual({
      ...before,
      readings: [before.readings[0], { weight: 8, b: 0 }],
    })
    expect(before.readings[1]?.weight).toBe(2)
    expect(grafted<unknown>({ blend: null }, other, ['blend', 'k'])).toEqual({ blend: { k: 9 } })
    expect(grafted<unknown>({}, other, ['blend', 'k'])).toEqual({ blend: { k: 9 } })
  })
  it('takes another value', () => {
    expect(withAt(before, ['readings', 1, 'weight'], 5)).toEqual({
      ...before,
      readings: [before.readings[0], { weight: 5, b: 0 }],
    })
    expect(withAt(before, ['blend'], null)).toEqual({ ...before, blend: null })
  })
  it('is a whole part where one has what the other has not', () => {
    expect(placeOfChange(before, { ...before, readings: [] })).toEqual(['readings'])
    expect(placeOfChange({ need: 'any' }, { need: { '1': 'all' } })).toEqual(['need'])
  })
})

describe('values along a track', () => {
  it('reach from end to end, each as finely as the knob is turned', () => {
    expect(valuesAlong(0, 1, 0.05, 5)).toEqual([0, 0.25, 0.5, 0.75, 1])
    expect(valuesAlong(0, 1, 0.1, 5)).toEqual([0, 0.3, 0.5, 0.8, 1])
    expect(valuesAlong(0.01, 5, 0.01).at(-1)).toBe(5)
  })
  it('are fewer where the knob has fewer', () => {
    expect(valuesAlong(0, 3, 1)).toEqual([0, 1, 2, 3])
  })
})

describe('what is said of a stage', () => {
  it('is what it earns or costs, from what shows as a thousandth on', () => {
    expect(stageSays(0.51, 0.5)).toBe('earns 0.010')
    expect(stageSays(0.5, 0.51)).toBe('costs 0.010')
    expect(stageSays(0.5, 0.5004)).toBe('no difference')
    expect(stageSays(0.5, 0.5006)).toBe('costs 0.001')
  })
})

describe('bars of choices', () => {
  it('stand within the room, equal ones half way up', () => {
    expect(barsOf([turned(0.2), turned(0.6)])?.map((bar) => Number(bar.height.toFixed(3)))).toEqual([0.045, 0.955])
    expect(barsOf([turned(0.5), turned(0.5)])?.map((bar) => bar.height)).toEqual([0.5, 0.5])
  })
  it('are none where no query counts', () => {
    expect(barsOf([turned(null), turned(0.5)])).toBeNull()
    expect(barsOf([])).toBeNull()
  })
})

describe('a curve', () => {
  it('goes through what the draft was measured at, between the places that were tried', () => {
    const ends = [turned(0.5), turned(0.7)]
    // A step: on the straight line between both ends there would be something to gain.
    const stepped = curveOf([0, 1], ends, { value: 0.5, mean: 0.7 })
    expect(stepped?.points.map((point) => [point.at, point.mean])).toEqual([
      [0, 0.5],
      [0.5, 0.7],
      [1, 0.7],
    ])
    expect(stepped && curveSays(stepped, 0.5)).toEqual({ words: 'at its best', better: null })
    const straight = curveOf([0, 1], ends)
    expect(straight && curveSays(straight, 0.5)).toEqual({ words: '+0.100 at 1', better: 1 })
    // What was tried there already, and what lies beyond, adds nothing.
    expect(curveOf([0, 1], ends, { value: 1, mean: 0.6 })?.points).toHaveLength(2)
    expect(curveOf([0, 1], ends, { value: 2, mean: 0.6 })?.points).toHaveLength(2)
  })
  const curve = curveOf([0, 1, 2], [turned(0.2, 0.1, 0.6), turned(0.5), turned(0.4)])
  it('stands along the track', () => {
    expect(curve?.points.map((point) => [point.at, point.mean])).toEqual([
      [0, 0.2],
      [0.5, 0.5],
      [1, 0.4],
    ])
    expect(curve?.points[0]).toMatchObject({ worst: 0.1, best: 0.6 })
    expect(curve?.top).toMatchObject({ value: 1, mean: 0.5 })
  })
  it('is none without a range or without a judged query', () => {
    expect(curveOf([1], [turned(0.5)])).toBeNull()
    expect(curveOf([0, 1], [turned(null), turned(null)])).toBeNull()
    expect(curveOf([0, 1], [turned(0.5)])).toBeNull()
  })
  it('makes no mountains of molehills', () => {
    const low = curveOf([0, 1], [turned(0.5), turned(0.501)])
    expect((low?.high ?? 0) - (low?.low ?? 0)).toBeCloseTo(0.044)
    const steep = curveOf([0, 1], [turned(0), turned(1)])
    expect((steep?.high ?? 0) - (steep?.low ?? 0)).toBeCloseTo(1.1)
  })
  it('is flat below what shows as 0.001', () => {
    expect(curveOf([0, 1], [turned(0), turned(0.00049)])?.isFlat).toBe(true)
    expect(curveOf([0, 1], [turned(0), turned(0.0005)])?.isFlat).toBe(false)
  })
  it('is read between the values that were tried', () => {
    if (!curve) throw new Error('a curve')
    expect(meanAt(curve, 0.5)).toBeCloseTo(0.35)
    expect(meanAt(curve, 1)).toBe(0.5)
    expect(meanAt(curve, -1)).toBeNull()
    expect(meanAt(curve, 3)).toBeNull()
  })
  it('says what there is to gain, and where', () => {
    if (!curve) throw new Error('a curve')
    expect(curveSays(curve, 0)).toEqual({ words: '+0.300 at 1', better: 1 })
    expect(curveSays(curve, 1)).toEqual({ words: 'at its best', better: null })
    expect(curveSays(curve, 9)).toEqual({ words: 'best at 1', better: 1 })
    const flat = curveOf([0, 1], [turned(0.5), turned(0.5)])
    expect(flat && curveSays(flat, 0)).toEqual({ words: 'no difference', better: null })
  })
})

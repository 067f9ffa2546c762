import { describe, expect, it } from 'vitest'
import type { KnobReport, Tuning } from '../api/tuning'
import { cellsOf, knobLines, knobPoints, knobSays, shadeOf, standingOf, valueText } from './tuning'

const knob = (more: Partial<KnobReport>): KnobReport => ({
  name: 'title weight',
  path: ['readings', 0, 'weight'],
  values: [1, 2, 4],
  ordered: true,
  means: [0.5, 0.6, 0.55],
  standing: 0,
  chosen: 1,
  loses: 0.1,
  as_good: [1],
  ...more,
})

const tuning = (more: Partial<Tuning>): Tuning => ({
  id: 1,
  judged_set: 'visitors',
  is_current: true,
  state: 'running',
  phase: 'on all queries',
  tried: 1200,
  plan: {
    measures: [{ measure: 'ndcg@10', weight: 1 }],
    way: 'coordinate',
    folds: 5,
    rails: [],
    most: 10,
    seconds: 10,
    seed: 0,
    ties: 'by_key',
    unjudged: 'off_topic',
    without_relevant: 'zero',
    weighted: false,
  },
  found: [
    [1, 0.5],
    [9, 0.5312],
  ],
  best: [],
  kept: null,
  problem: null,
  report: null,
  said: '',
  begun_at: '',
  ...more,
})

describe('a tuning', () => {
  it('asks for the knobs that are ticked, and for those that were added by hand', () => {
    const row = {
      name: 'title weight',
      standing: '1',
      values: '0..4',
      isOn: true,
      isUsual: true,
      place: 'readings[0].weight',
    }
    const rows = [row, { ...row, place: 'combine.k1', isOn: false }, { ...row, place: 'combine.how', values: ' ' }]
    expect(knobLines(rows, '\n combine.share=0..1 \n')).toEqual(['readings[0].weight=0..4', 'combine.share=0..1'])
  })

  it('says how far it is, what was wrong, and that it was ended', () => {
    expect(standingOf(tuning({}))).toBe('on all queries: 1,200 settings tried, best so far 0.531')
    expect(standingOf(tuning({ phase: '', found: [], tried: 0 }))).toBe('beginning: 0 settings tried')
    expect(standingOf(tuning({ state: 'waiting' }))).toBe('waiting for another one to end')
    expect(standingOf(tuning({ state: 'failed', problem: 'The space is gone.' }))).toBe('The space is gone.')
    expect(standingOf(tuning({ state: 'done', said: 'left as it is' }))).toBe('left as it is')
    expect(standingOf(tuning({ state: 'cancelled' }))).toBe('It was ended.')
  })
})

describe('a knob', () => {
  it('says what it was turned to, what that is worth, and what else is as good', () => {
    expect(knobSays(knob({}))).toBe('1 to 2; turned back alone it costs −0.100; as good within luck: 2')
    expect(knobSays(knob({ chosen: 0, as_good: [0, 1, 2] }))).toBe('left as it is; as good within luck: 1 to 4')
    expect(knobSays(knob({ ordered: false, chosen: 0, as_good: [0, 1, 2] }))).toContain('within luck: 1, 2, 4')
  })

  it('makes no difference below what shows as 0.000, and some from there', () => {
    expect(knobSays(knob({ means: [0, 0.00049, 0] }))).toBe('makes no difference')
    expect(knobSays(knob({ means: [0, 0.0005, 0] }))).not.toBe('makes no difference')
    expect(knobSays(knob({ means: [0.5, null, null] }))).toBe('not tried')
  })

  it('is drawn where it was tried', () => {
    expect(knobPoints(knob({ means: [0.5, null, 0.55] }))).toEqual([
      { at: 0, mean: 0.5 },
      { at: 1, mean: 0.55 },
    ])
  })

  it('shows numbers, words and whatever else a document holds', () => {
    expect([valueText(0.12345), valueText('sum'), valueText(true)]).toEqual(['0.123', 'sum', 'true'])
  })
})

describe('a surface', () => {
  const surface = {
    rows: 0,
    columns: 1,
    row_values: [0, 1],
    column_values: [0, 1],
    means: [
      [0.2, null],
      [0.4, 0.3],
    ],
  }

  it('has a cell for each pair that was tried, shaded from the least to the most', () => {
    const cells = cellsOf(surface)
    expect(cells).toHaveLength(3)
    expect(cells.map((cell) => Math.round(shadeOf(cells)(cell.mean) * 100))).toEqual([0, 100, 50])
  })

  it('is one shade where nothing differs', () => {
    const cells = cellsOf({
      ...surface,
      means: [
        [0.2, 0.2],
        [0.2, 0.2004],
      ],
    })
    expect(cells.map((cell) => shadeOf(cells)(cell.mean))).toEqual([1, 1, 1, 1])
  })
})

import { describe, expect, it } from 'vitest'
import type { Stage } from '../api/queries'
import { berths, folded, grid } from './columns'

const token = (text: string, start: number, position: number) => ({
  text,
  start,
  end: start + text.length,
  position,
  span: 1,
  kept: false,
})

const stage = (over: Partial<Stage>): Stage => ({
  stage: 'x',
  kind: 'token stage',
  text: null,
  tokens: [],
  parents: [],
  dropped: [],
  changed: true,
  ...over,
})

// "The Harbors" through words > lower > stopwords(en) > stem(en)
const trace: Stage[] = [
  stage({ stage: 'words', kind: 'tokenizer', tokens: [token('The', 0, 0), token('Harbors', 4, 1)] }),
  stage({ stage: 'lower', tokens: [token('the', 0, 0), token('harbors', 4, 1)], parents: [0, 1] }),
  stage({ stage: 'stopwords(en)', tokens: [token('harbors', 4, 1)], parents: [1], dropped: [0] }),
  stage({ stage: 'stem(en)', tokens: [token('harbor', 4, 1)], parents: [0] }),
]

describe('grid', () => {
  const layout = grid(trace)

  it('keeps every token in the column of the stretch it came from', () => {
    expect(layout.rows.map((row) => row.cells.map((cell) => cell.texts))).toEqual([
      [['The'], ['Harbors']],
      [['the'], ['harbors']],
      [[], ['harbors']],
      [[], ['harbor']],
    ])
    expect(layout.columns.map((column) => column.finals)).toEqual([[], [0]])
  })

  it('says once where a token was dropped', () => {
    expect(layout.rows.map((row) => row.cells[0]?.dropped)).toEqual([false, false, true, false])
  })
})

describe('berths', () => {
  it('puts a query column under the record column it moors to, and those adrift first', () => {
    const record = grid(trace)
    const query = grid([
      stage({ stage: 'words', kind: 'tokenizer', tokens: [token('harbor', 0, 0), token('fog', 7, 1)] }),
    ])
    const moorings = [
      { query_token: 0, record_tokens: [0], reason: null },
      { query_token: 1, record_tokens: [], reason: 'nobody' },
    ]
    expect(berths(record, query, moorings)).toEqual([
      { record: null, query: 1 },
      { record: 0, query: null },
      { record: 1, query: 0 },
    ])
  })
})

describe('folded', () => {
  const all = Array.from({ length: 40 }, (_, i) => ({ record: i, query: i === 20 ? 0 : null }))

  it('folds long runs without company, and loses no column', () => {
    const made = folded(all, (berth) => berth.query !== null, 14, new Set())
    expect(made.map((stretch) => (stretch.kind === 'folded' ? stretch.berths.length : 1))).toEqual([19, 1, 1, 1, 18])
  })

  it('opens a run that was asked for', () => {
    const made = folded(all, (berth) => berth.query !== null, 14, new Set([0]))
    expect(made.length).toBe(19 + 3 + 1)
  })

  it('shows the beginning of the record where nothing met', () => {
    const adrift = [{ record: null, query: 0 }, ...all.map((berth) => ({ ...berth, query: null }))]
    const made = folded(adrift, (berth) => berth.query !== null, 14, new Set())
    expect(made.filter((stretch) => stretch.kind === 'berth').length).toBe(14)
  })

  it('shows the first places of a word that stands everywhere, and folds the rest', () => {
    const everywhere = all.concat(all, all).map((_, i) => ({ record: i, query: 0 }))
    const made = folded(everywhere, () => true, 14, new Set())
    expect(made.filter((stretch) => stretch.kind === 'berth').length).toBe(42)
    expect(made.at(-1)).toMatchObject({ kind: 'folded', berths: { length: 120 - 42 } })
  })

  it('leaves a short text alone', () => {
    expect(folded(all.slice(0, 10), () => false, 14, new Set()).every((s) => s.kind === 'berth')).toBe(true)
  })
})

import { expect, it } from 'vitest'
import type { Ledger } from '../api/tuning'
import { bytesDelta, isOfDraft, ledgerTable, timeDelta } from './ledger'

const rules = { ties: 'by_key', unjudged: 'off_topic', without_relevant: 'zero', weighted: false } as const
const asked = { ...rules, ranker: 'first', version: 1, document: null as unknown, measure: 'ndcg@10' }
const ledger = (more: Partial<Ledger>): Ledger => ({
  id: 1,
  judged_set: 'visitors',
  is_current: true,
  needed: [],
  state: 'done',
  done: 1,
  in_all: 1,
  plan: { ranker: 'first', version: 1, document: null, measure: 'ndcg@10', ...rules },
  mean: 0.5,
  index_bytes: 10,
  ms: 1,
  lines: [],
  problem: null,
  begun_at: '',
  ...more,
})

it('is a draft’s only where ranker, version, document, measure and set are the same', () => {
  expect(isOfDraft(ledger({}), asked, 'visitors')).toBe(true)
  expect(isOfDraft(ledger({}), asked, 'others')).toBe(false)
  for (const other of [{ ranker: 'start' }, { version: 2 }, { measure: 'rr' }, { document: { readings: [] } }])
    expect(isOfDraft(ledger({}), { ...asked, ...other }, 'visitors')).toBe(false)
  expect(isOfDraft(ledger({}), { ...asked, ties: 'best_first' }, 'visitors')).toBe(false)
  expect(isOfDraft(ledger({}), { ...asked, weighted: true }, 'visitors')).toBe(false)
  const plan = { ...ledger({}).plan, document: { need: 'any', one_per: null } as never }
  const turned = { ...asked, document: { one_per: null, need: 'any' } }
  expect(isOfDraft(ledger({ plan }), turned, 'visitors')).toBe(true)
})

it('says what a part costs or spares', () => {
  expect([0, 999_949, 1_000_000, -3_413].map(bytesDelta)).toEqual(['0', '999.9 kB', '1.0 MB', '−3.4 kB'])
  expect([0.009, 0.01, -0.25].map(timeDelta)).toEqual(['0 ms', '0.01 ms', '−0.25 ms'])
})

it('is taken along as a table', () => {
  const earning = { earns: 'earns' as const, loses: 0.2, low: 0.1, high: 0.3, saved: 5, harmed: 1 }
  const line = {
    kind: 'reading',
    name: 'title',
    earning,
    index_bytes: 7,
    ms: 0.5,
    without: {},
    new_list: null,
    moved: [],
  }
  expect(ledgerTable(ledger({ lines: [line] }))[1]).toEqual(['earns', 'reading', 'title', 0.2, 0.1, 0.3, 5, 1, 7, 0.5])
})

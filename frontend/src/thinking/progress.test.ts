import { describe, expect, it } from 'vitest'
import type { Import } from '../api/records'
import { deletesMany, durationText, emptiedText, outlookText, progressOf, reportText, undoneText } from './progress'

const at = (change: Partial<Import>): Import => ({
  tune_start: false,
  by_person: null,
  id: 1,
  collection: 'coast',
  name: 'records.csv',
  kind: 'file',
  state: 'running',
  phase: 'reading',
  rows_read: 5_000,
  rows_rejected: 0,
  bytes_read: 250,
  bytes_in_all: 1_000,
  seconds: 10,
  problem: null,
  report: null,
  created_at: '',
  outlook: null,
  undoable: false,
  undone: null,
  cut_off: false,
  ...change,
})

describe('how far an import is', () => {
  it('tells rate and time left', () => {
    expect(progressOf(at({}))).toEqual({ share: 0.25, rate: '500 rows a second', left: '30 s left' })
  })

  it('claims nothing that it does not know', () => {
    expect(progressOf(at({ bytes_in_all: 0 }))).toEqual({ share: null, rate: '500 rows a second', left: '' })
    expect(progressOf(at({ rows_read: 0, seconds: 0 })).rate).toBe('')
    expect(progressOf(at({ phase: 'storing', bytes_read: 1_000 })).left).toBe('')
  })

  it('says durations and reports as a person would', () => {
    expect([0.2, 59.6, 600, 7_200].map(durationText)).toEqual(['less than a second', '60 s', '10 min', '2.0 h'])
    expect(reportText({ read: 1010, added: 1000, updated: 0, rejected: 10 })).toBe(
      '1,010 rows read: 1,000 added, 10 rejected.',
    )
    expect(reportText({ read: 0 })).toBe('0 rows read: nothing to change.')
  })
})

describe('what an import would do', () => {
  const outlook = { records: 3_000, added: 4, updated: 12, unchanged: 1, deleted: 300, emptied: { maker: 2, notes: 4 } }

  it('is told in counts, and by the fields that lose values', () => {
    expect(outlookText(outlook)).toBe('4 new, 12 changed, 1 unchanged, 300 deleted')
    expect(emptiedText(outlook)).toBe('Values go from maker (2), notes (4).')
    expect(outlookText({ ...outlook, added: 0, updated: 0, unchanged: 0, deleted: 0 })).toBe('nothing to change')
    expect(emptiedText({ ...outlook, emptied: {} })).toBe('')
  })

  it('asks for a number where more than a tenth goes', () => {
    expect(deletesMany(outlook)).toBe(false)
    expect(deletesMany({ ...outlook, deleted: 301 })).toBe(true)
  })

  it('says what undoing left as it is', () => {
    expect(undoneText({ restored: 2, removed: 1, kept: 0 })).toBe('2 restored, 1 removed.')
    expect(undoneText({ restored: 0, removed: 0, kept: 3 })).toBe(
      'nothing restored; 3 were changed or deleted since, and stay as they are.',
    )
  })
})

import { expect, test } from 'vitest'
import type { Space, SpaceDocument } from '../api/spaces'
import { coverText, fillingOf, notYet } from './spaces'

const packaged: SpaceDocument = {
  source: { kind: 'packaged' },
  fields: ['title', 'story'],
  passages: { by: 'sentences', size: 2, overlap: 0, delimiter: '' },
  similarity: 'cosine',
}
const space: Space = {
  name: 'meaning',
  document: packaged,
  model: null,
  dimensions: null,
  state: 'running',
  phase: 'making vectors',
  done: 500,
  in_all: 2000,
  problem: null,
  report: null,
  behind: false,
  word_vectors: true,
  asked_by: [],
}

test('what a space covers is one line', () => {
  expect(coverText(packaged)).toBe('title, story; in passages of 2 sentences')
  expect(coverText({ ...packaged, source: { kind: 'brought', field: 'numbers' } })).toBe('vectors in the field numbers')
})

test('how far a filling is', () => {
  expect(fillingOf(space)).toEqual({ text: 'making vectors: 500 of 2,000', share: 0.25, busy: true, wrong: false })
  expect(fillingOf({ ...space, state: 'failed', problem: 'refused' })).toMatchObject({ text: 'refused', wrong: true })
  const report = { records: 10, vectors: 31, passages: 20, whole: 8, faults: {}, examples: [] }
  expect(fillingOf({ ...space, state: 'done', report }).text).toBe('31 vectors of 10 records, 2 without all of theirs')
})

test('a space that cannot be made yet says what is missing', () => {
  expect(notYet('Meaning', packaged, [])).toMatch('small letters')
  expect(notYet('meaning', packaged, ['meaning'])).toMatch('already')
  expect(notYet('meaning', { ...packaged, fields: [] }, [])).toMatch('fields')
  expect(notYet('meaning', packaged, [])).toBeNull()
})

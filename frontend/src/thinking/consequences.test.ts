import { expect, test } from 'vitest'
import { ofSample, totalOf } from './consequences'

test('figures are of a sample where not every record was read', () => {
  expect(ofSample({ records: 299, records_in_all: 300 })).toBe(true)
  expect(ofSample({ records: 300, records_in_all: 300 })).toBe(false)
})

test('the index takes up what its parts take up', () => {
  expect(totalOf({ terms: 1, postings: 20, positions: 300, letters: 4_000, lengths: 50_000 })).toBe(54_321)
})

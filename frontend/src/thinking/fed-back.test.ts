import { expect, test } from 'vitest'
import { fedBackText } from './fed-back'

const term = (field: string, word: string, weight: number) => ({ field, term: word, weight })

test('words stand once, those that weigh most first', () => {
  const terms = [term('title', 'oil', 0.4), term('title', 'lamp', 0.6), term('text', 'oil', 0.9)]
  expect(fedBackText({ records: ['a', 'b'], terms })).toBe('Fed back from the first 2 records: “oil” “lamp”')
})

test('more than twelve words are counted', () => {
  const terms = Array.from({ length: 14 }, (_, i) => term('text', `w${i}`, 1 - i / 100))
  expect(fedBackText({ records: ['a'], terms })).toMatch(/^Fed back from the first record: .*“w11” and 2 more$/)
})

test('where no word is rare enough, or none was found, it says so', () => {
  expect(fedBackText({ records: ['a'], terms: [] })).toContain('none that is rare enough')
  expect(fedBackText({ records: [], terms: [] })).toContain('nothing was found by plain words')
})

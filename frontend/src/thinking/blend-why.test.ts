import { expect, test } from 'vitest'
import { blendText, blendWords, partWords } from './blend-why'

const blend = {
  how: 'reciprocal_rank' as const,
  kind: null,
  meaning: 0.5,
  k: 60,
  normalise: 'min_max' as const,
  depth: 50,
  score: 0.0161,
  lists: [
    { name: 'words', weight: 0.5, rank: 2, score: 7.25, part: 0.5 / 62 },
    { name: 'meaning', weight: 0.5, rank: 0, score: 0.31, part: 0 },
  ],
  formula: null,
  steps: [],
  second_look: null,
}

test('a share is told so that it can be reckoned again', () => {
  expect(partWords(blend, blend.lists[0]!)).toBe('0.5 / (60 + 2); number 2 there, 7.250 by words')
  expect(partWords(blend, blend.lists[1]!)).toBe('not in this list; 0.310 alike')
  const summed = { ...blend, how: 'weighted_sum' as const }
  expect(partWords(summed, { name: 'meaning', weight: 0.25, rank: 1, score: 0.7, part: 0.25 })).toBe(
    '0.25 × 1.000; number 1 there, 0.700 alike',
  )
})

test('every way of blending has its words', () => {
  expect(blendWords({ ...blend, how: 'weighted_sum' })).toBe('Blended: scores, made comparable (min-max) and added')
  expect(blendWords({ ...blend, how: 'reorder' })).toBe('The first 50 by words, in the order of meaning')
})

test('the whole as text names a rank in a list that does not hold the record', () => {
  const text = blendText({
    ...blend,
    how: 'formula',
    formula: 'rank.words',
    steps: [{ text: 'rank.words', value: null }],
  })
  expect(text.at(-1)).toBe('    not listed  rank.words')
})

import { expect, test } from 'vitest'
import { columnOrder, sideOf, ties } from './lists'

const row = (key: string) => ({ key, score: 1, ranks: [] })

test('a record is found by words, by meaning, or by both', () => {
  expect(sideOf([1, 4, 2])).toBe('both')
  expect(sideOf([3, 0, 2])).toBe('words')
  expect(sideOf([0, 0, 5, 2])).toBe('meaning')
})

test('the blend stands between words and the spaces', () => {
  expect(columnOrder(['words', 'one', 'two', 'blended'])).toEqual([0, 3, 1, 2])
})

test('lines join the rows of one record in neighbouring columns', () => {
  const lists = [
    [row('a'), row('b')],
    [row('c'), row('b')],
    [row('b'), row('a'), row('c')],
  ]
  expect(ties(lists, columnOrder(['words', 'one', 'blended']))).toEqual([
    { key: 'a', from: 0, to: 1, column: 0 },
    { key: 'b', from: 1, to: 0, column: 0 },
    { key: 'b', from: 0, to: 1, column: 1 },
    { key: 'c', from: 2, to: 0, column: 1 },
  ])
})

import { expect, test } from 'vitest'
import { same } from './same'

test('keys may stand in any order, at any depth', () => {
  expect(same({ a: 1, b: { c: [1, { d: 2, e: 3 }] } }, { b: { c: [1, { e: 3, d: 2 }] }, a: 1 })).toBe(true)
})

test('a list in another order is another one, and so is a key more', () => {
  expect(same([1, 2], [2, 1])).toBe(false)
  expect(same({ a: 1 }, { a: 1, b: null })).toBe(false)
})

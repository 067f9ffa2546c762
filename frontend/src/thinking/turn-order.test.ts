import { expect, it } from 'vitest'
import { nextInTurn } from './turn-order'

const all = [
  ['title', true],
  ['text', false],
  ['maker', false],
] as const

it('asks for the one in hand first, then from top to bottom', () => {
  expect(nextInTurn(all, 'maker')).toBe('maker')
  expect(nextInTurn(all, null)).toBe('text')
  expect(nextInTurn(all, 'title')).toBe('text')
  expect(nextInTurn([['title', true]], 'title')).toBeNull()
})

import { expect, it } from 'vitest'
import { nextInTurn, type Awaited } from './turn-order'

const number = (isThere: boolean): Awaited => ({ isThere, isQuick: true })
const choice = (isThere: boolean): Awaited => ({ isThere, isQuick: false })

const all = [
  ['title', number(true)],
  ['text', number(false)],
  ['combine', choice(false)],
  ['maker', number(false)],
] as const

it('asks for the one in hand first, then for the numbers from top to bottom', () => {
  expect(nextInTurn(all, 'maker')).toEqual(['maker'])
  expect(nextInTurn(all, null)).toEqual(['text', 'maker'])
  expect(nextInTurn(all, 'title')).toEqual(['text', 'maker'])
  expect(nextInTurn([['title', number(true)]], 'title')).toEqual([])
})

it('asks for a choice by itself', () => {
  expect(nextInTurn(all.slice(2), null)).toEqual(['combine'])
  expect(nextInTurn(all, 'combine')).toEqual(['combine'])
})

it('asks for five at once, not for six', () => {
  const six = ['a', 'b', 'c', 'd', 'e', 'f'].map((name) => [name, number(false)] as const)
  expect(nextInTurn(six.slice(1), null)).toEqual(['b', 'c', 'd', 'e', 'f'])
  expect(nextInTurn(six, null)).toEqual(['a', 'b', 'c', 'd', 'e'])
})

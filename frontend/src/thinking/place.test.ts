import { expect, it } from 'vitest'
import { offsetsOf } from './place'

it('finds a place on any line, with characters of two units before it', () => {
  const source = 'words >\n# 𝄞𝄞\n lowr > stem(en)'
  const [start, end] = offsetsOf(source, { line: 3, column: 2, length: 4 })
  expect(source.slice(start, end)).toBe('lowr')
  const [first, last] = offsetsOf('"𝄞" > x', { line: 1, column: 7, length: 1 })
  expect('"𝄞" > x'.slice(first, last)).toBe('x')
})

it('gives an empty stretch at the end of the text', () => {
  expect(offsetsOf('words >', { line: 1, column: 8, length: 1 })).toEqual([7, 7])
})

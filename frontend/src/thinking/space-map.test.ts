import { expect, test } from 'vitest'
import { scaled } from './space-map'

const point = (x: number, y: number) => ({ key: `${x}`, title: '', x, y, rank: 0, example: false })

test('points fill the square without being stretched, up being up', () => {
  const { dots, wanted } = scaled({ points: [point(0, 0), point(2, 1)], wanted: [1, 0.5] }, 100)
  expect(dots.map(({ x, y }) => [x, y])).toEqual([
    [14, 68],
    [86, 32],
  ])
  expect(wanted).toEqual({ x: 50, y: 50 })
})

test('one point, or none, is no reason to divide by nothing', () => {
  expect(scaled({ points: [point(3, 3)], wanted: null }, 100).dots[0]).toMatchObject({ x: 50, y: 50 })
  expect(scaled({ points: [], wanted: null }, 100).dots).toEqual([])
})

import { expect, test } from 'vitest'
import { square } from './space-map'

const point = (x: number, y: number) => ({ key: `${x}`, title: '', x, y, rank: 0, example: false })

test('the square holds every point and what is wanted, the cloud in its middle', () => {
  expect(square({ points: [point(0, 0), point(2, 1)], wanted: [1, 0.5] })).toEqual({ x: [0, 2], y: [-0.5, 1.5] })
  expect(square({ points: [point(0, 0), point(1, 1)], wanted: [-1, 5] })).toEqual({ x: [-2.5, 2.5], y: [0, 5] })
})

test('one point, or none, has a square around it', () => {
  expect(square({ points: [point(3, 3)], wanted: null })).toEqual({ x: [2, 4], y: [2, 4] })
  expect(square({ points: [], wanted: null })).toEqual({ x: [-1, 1], y: [-1, 1] })
})

import { describe, expect, it } from 'vitest'
import { lengthOf, moved, sampleOffsets, withLength } from './display'

const display = {
  title: 'title',
  picture: null,
  fields: [
    { field: 'text', length: 'short' as const },
    { field: 'year', length: 'line' as const },
  ],
}

describe('a display while it is designed', () => {
  it('shows, hides and lengthens a field', () => {
    expect(lengthOf(display, 'place')).toBe('hidden')
    expect(lengthOf(withLength(display, 'place', 'line'), 'place')).toBe('line')
    expect(withLength(display, 'text', 'whole').fields?.map(({ field }) => field)).toEqual(['text', 'year'])
    expect(lengthOf(withLength(display, 'text', 'hidden'), 'text')).toBe('hidden')
  })

  it('moves a field among those that are shown, and no further', () => {
    expect(moved(display, 1, -1).fields?.map(({ field }) => field)).toEqual(['year', 'text'])
    expect(moved(display, 0, -1)).toBe(display)
    expect(moved(display, 1, 1)).toBe(display)
  })

  it('is tried on records from all over', () => {
    expect(sampleOffsets(1000, 8)).toEqual([0, 496, 992])
    expect(sampleOffsets(5, 8)).toEqual([0])
  })
})

import { expect, it } from 'vitest'
import { changedFields, whenText } from './revisions'

it('names the fields that differ, come and go', () => {
  const before = { id: 'a', title: 'Fog', materials: ['ash'], year: 1846 }
  const after = { id: 'a', title: 'Fog bell', materials: ['ash'], place: 'Saltmere' }
  expect(changedFields(before, after)).toEqual(['title', 'year', 'place'])
  expect(changedFields(before, { ...before })).toEqual([])
})

it('says a moment to the minute, and leaves alone what is none', () => {
  expect(whenText('2026-11-23T09:05:59')).toBe('2026-11-23 09:05')
  expect(whenText('soon')).toBe('soon')
})

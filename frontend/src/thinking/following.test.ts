import { describe, expect, it } from 'vitest'
import { secondsText, standingText, stripText, writtenType } from './following'

const now = { waiting: 0, behind_s: 0, done: 0, title: 'shop on db' }

describe('how a following stands', () => {
  it('says how many changes wait, and for how long', () => {
    expect(stripText({ ...now, standing: 'behind', waiting: 1_200, behind_s: 9.94 })).toBe(
      'behind by 1,200 changes, 9.9 s',
    )
    expect(stripText({ ...now, standing: 'behind', waiting: 1, behind_s: 10 })).toBe('behind by 1 change, 10 s')
  })
  it('says since when nothing is known, where that is known', () => {
    expect(stripText({ ...now, standing: 'not in step' })).toBe('not in step')
    expect(standingText({ ...now, standing: 'not in step', behind_s: 120 })).toBe(
      'Not in step with shop on db, since 2 min.',
    )
  })
  it('knows the column that a nested field is of', () => {
    const columns = [
      { name: 'size', written: 'integer' },
      { name: 'said', written: 'jsonb' },
    ]
    expect(['size', 'said', 'said.size', 'sizes'].map((one) => writtenType(one, columns))).toEqual([
      'integer',
      'jsonb',
      'jsonb',
      undefined,
    ])
  })
  it('tells a time by its closest unit', () => {
    expect([9.99, 10, 119.4, 120, 7_199, 7_200, 172_799, 172_800].map(secondsText)).toEqual([
      '10.0 s',
      '10 s',
      '119 s',
      '2 min',
      '120 min',
      '2 h',
      '48 h',
      '2 days',
    ])
  })
})

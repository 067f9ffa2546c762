import { describe, expect, it } from 'vitest'
import { secondsLong } from './growth'

describe('how long something takes', () => {
  it('is told by its closest unit', () => {
    expect([9.94, 10, 119.4, 120, 7_199, 7_200].map(secondsLong)).toEqual([
      '9.9 s',
      '10 s',
      '119 s',
      '2 min',
      '120 min',
      '2.0 h',
    ])
  })
})

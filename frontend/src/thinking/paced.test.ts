import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { paced } from './paced'

describe('what is done no more often than every so often', () => {
  beforeEach(() => void vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] }))
  afterEach(() => void vi.useRealTimers())

  it('does the first wish at once, and the last one in any case', () => {
    const work = vi.fn()
    const own = paced(work, 2_000)
    own.want()
    expect(work).toHaveBeenCalledTimes(1)
    own.want()
    own.want()
    vi.advanceTimersByTime(1_999)
    expect(work).toHaveBeenCalledTimes(1)
    vi.advanceTimersByTime(1)
    expect(work).toHaveBeenCalledTimes(2)
    vi.advanceTimersByTime(2_000)
    own.want()
    expect(work).toHaveBeenCalledTimes(3)
  })

  it('does nothing more once it is ended', () => {
    const work = vi.fn()
    const own = paced(work, 2_000)
    own.want()
    own.want()
    own.end()
    vi.advanceTimersByTime(5_000)
    expect(work).toHaveBeenCalledTimes(1)
  })
})

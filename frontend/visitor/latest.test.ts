import { describe, expect, it } from 'vitest'
import { Latest } from './latest'

// An answer that comes when it is let go.
function slow(): { answer: Promise<string>; give: (said: string) => void; fail: (error: Error) => void } {
  let give: (said: string) => void = () => undefined
  let fail: (error: Error) => void = () => undefined
  const answer = new Promise<string>((resolve, reject) => {
    give = resolve
    fail = reject
  })
  return { answer, give, fail }
}

describe('the latest question', () => {
  it('is the only one whose answer is heard, in whatever order answers come', async () => {
    const latest = new Latest()
    const [first, second] = [slow(), slow()]
    const heard = [latest.ask(() => first.answer), latest.ask(() => second.answer)]
    second.give('lamp')
    first.give('la')
    expect(await Promise.all(heard)).toEqual([null, 'lamp'])
  })

  it('calls off what was asked before', async () => {
    const latest = new Latest()
    const first = slow()
    let signal: AbortSignal | null = null
    const heard = latest.ask((own) => {
      signal = own
      return first.answer
    })
    void latest.ask(() => Promise.resolve('lamp'))
    expect((signal as AbortSignal | null)?.aborted).toBe(true)
    first.fail(new Error('aborted'))
    expect(await heard).toBeNull()
  })

  it('tells of its own failure, and not of an older one', async () => {
    const latest = new Latest()
    const only = slow()
    const heard = latest.ask(() => only.answer)
    only.fail(new Error('no net'))
    await expect(heard).rejects.toThrow('no net')
    expect(await latest.ask(() => Promise.resolve('again'))).toBe('again')
  })

  it('is nobody’s once it was called off', async () => {
    const latest = new Latest()
    const only = slow()
    const heard = latest.ask(() => only.answer)
    latest.callOff()
    only.give('late')
    expect(await heard).toBeNull()
  })
})

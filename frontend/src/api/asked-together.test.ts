import { afterEach, expect, it, vi } from 'vitest'
import { turnsTogether } from './asked-together'
import { ProblemError, server } from './client'
import { HOW } from './queries'

const request = { ranker: { name: 'first' }, measure: 'ndcg@10', how: HOW }
const turn = (value: number) => ({ path: ['readings', 0, 'weight'], value })
const turned = (mean: number) => ({ mean, band: null, gained: 0, lost: 0 })

// A server whose turns come to their values; it refuses a request with a value below 0.
function serve() {
  const asked: number[][] = []
  const post = async (
    _path: string,
    { body, signal }: { body: { turns: { value: number }[] }; signal: AbortSignal },
  ) => {
    const values = body.turns.map((one) => one.value)
    asked.push(values)
    if (signal.aborted) throw new DOMException('Nobody waits.', 'AbortError')
    const response = new Response()
    if (values.some((value) => value < 0)) return { error: { status: 422, detail: 'Too small.' }, response }
    return { data: { standing: turned(0.5), turned: values.map(turned), queries: 3 }, response }
  }
  vi.spyOn(server, 'POST').mockImplementation(post as never)
  return asked
}

const ask = (values: number[], of = 'saltmere', signal = new AbortController().signal) =>
  turnsTogether(of, 'visitors', request, values.map(turn), signal)

afterEach(() => vi.restoreAllMocks())

it('asks once for what is asked of one draft at a time, and gives each its own', async () => {
  const asked = serve()
  const [one, two] = await Promise.all([ask([1, 2]), ask([3])])
  expect(asked).toEqual([[1, 2, 3]])
  expect([one.turned.map((each) => each.mean), two.turned.map((each) => each.mean)]).toEqual([[1, 2], [3]])
  expect(two.queries).toBe(3)
})

it('keeps apart what is asked of another collection, and what comes later', async () => {
  const asked = serve()
  await Promise.all([ask([1]), ask([2], 'harbour')])
  await ask([3])
  expect(asked).toEqual([[1], [2], [3]])
})

it('asks for a hundred turns at once, not for more', async () => {
  const asked = serve()
  const fifty = Array.from({ length: 50 }, (_, i) => i)
  await Promise.all([ask(fifty), ask(fifty), ask([1])])
  expect(asked.map((values) => values.length)).toEqual([100, 1])
})

it('lets one that is refused keep nobody from theirs', async () => {
  const asked = serve()
  const told = await Promise.allSettled([ask([1]), ask([-1]), ask([2])])
  expect(told.map((one) => one.status)).toEqual(['fulfilled', 'rejected', 'fulfilled'])
  expect(told[1]).toMatchObject({ reason: expect.any(ProblemError) as unknown })
  expect(asked).toEqual([[1, -1, 2], [1], [-1], [2]])
})

it('breaks off where nobody waits any more, and goes on while somebody does', async () => {
  const asked = serve()
  const [left, leftToo] = [new AbortController(), new AbortController()]
  const both = Promise.allSettled([ask([1], 'saltmere', left.signal), ask([2], 'saltmere', leftToo.signal)])
  left.abort()
  leftToo.abort()
  expect((await both).map((one) => one.status)).toEqual(['rejected', 'rejected'])
  const other = new AbortController()
  const still = Promise.all([ask([3], 'saltmere', other.signal), ask([4])])
  other.abort()
  expect((await still)[1].turned.map((one) => one.mean)).toEqual([4])
  // What is broken off goes to the server as broken off, so that it is told.
  expect(asked).toEqual([
    [1, 2],
    [3, 4],
  ])
})

// Sends what a judge said, again and again until the server has it.
import { useCallback, useEffect, useRef, useState } from 'react'
import { ProblemError } from '../../api/client'
import { judgeSays, type Said } from '../../api/judging'
import { acknowledged, momentAfter, Outbox, put } from '../../thinking/outbox'

const AGAIN_MS = 2_000
const MOST_AT_ONCE = 500

// When it was said, and by which device, is added.
export type Word = Omit<Said, 'at' | 'device' | 'order'>

export type Sending = {
  waiting: Said[]
  // What the server refused, in words; what was said waits all the same.
  problem: string | null
  away: boolean
  // Whether what waits outlives this page.
  stored: boolean
  say: (said: Word) => void
}

// lastSaid: when the server last heard from this judge, by whatever clock: what is said now is later.
export function useOutbox(token: string, lastSaid: string | null): Sending {
  const [box] = useState(() => new Outbox(localStorage, `paleharbor.outbox.${token}`))
  const [waiting, setWaiting] = useState(() => box.waiting())
  const [problem, setProblem] = useState<string | null>(null)
  const [away, setAway] = useState(false)
  const last = useRef([lastSaid, ...waiting.map((one) => one.at)])
  const sending = useRef(false)

  const send = useCallback(async () => {
    if (sending.current) return
    sending.current = true
    try {
      for (
        let some = box.waiting().slice(0, MOST_AT_ONCE);
        some.length > 0;
        some = box.waiting().slice(0, MOST_AT_ONCE)
      ) {
        await judgeSays(token, some)
        const sent = some
        setWaiting(box.change((all) => acknowledged(all, sent)))
        setAway(false)
        setProblem(null)
      }
    } catch (error) {
      const refused = error instanceof ProblemError && error.problem.status >= 400 && error.problem.status < 500
      setAway(!refused)
      setProblem(refused ? error.message : null)
    } finally {
      sending.current = false
    }
  }, [token, box])

  useEffect(() => {
    const first = setTimeout(() => void send(), 0)
    const again = setInterval(() => void send(), AGAIN_MS)
    const back = () => void send()
    window.addEventListener('online', back)
    return () => {
      clearTimeout(first)
      clearInterval(again)
      window.removeEventListener('online', back)
    }
  }, [send])

  const say = useCallback(
    (said: Word) => {
      const whole = box.numbered({ ...said, at: momentAfter(last.current, new Date()) })
      last.current = [whole.at]
      setWaiting(box.change((all) => put(all, whole)))
      void send()
    },
    [box, send],
  )

  return { waiting, problem, away, stored: box.stored, say }
}

// Sends what a judge said, again and again until the server has it.
import { useCallback, useEffect, useRef, useState } from 'react'
import { ProblemError } from '../../api/client'
import { judgeSays, type Said } from '../../api/judging'
import { acknowledged, momentAfter, parsedBox, put } from '../../thinking/outbox'

const AGAIN_MS = 2_000
const MOST_AT_ONCE = 500

export type Outbox = {
  waiting: Said[]
  // What the server refused, in words; what was said waits all the same.
  problem: string | null
  away: boolean
  say: (said: Omit<Said, 'at'>) => Said
}

export function useOutbox(token: string): Outbox {
  const name = `paleharbor.outbox.${token}`
  const [waiting, setWaiting] = useState(() => parsedBox(localStorage.getItem(name)))
  const [problem, setProblem] = useState<string | null>(null)
  const [away, setAway] = useState(false)
  const box = useRef(waiting)
  const last = useRef<string | null>(waiting.at(-1)?.at ?? null)
  const sending = useRef(false)

  const keep = useCallback(
    (next: Said[]) => {
      box.current = next
      localStorage.setItem(name, JSON.stringify(next))
      setWaiting(next)
    },
    [name],
  )

  const send = useCallback(async () => {
    if (sending.current || box.current.length === 0) return
    sending.current = true
    try {
      while (box.current.length > 0) {
        const some = box.current.slice(0, MOST_AT_ONCE)
        await judgeSays(token, some)
        keep(acknowledged(box.current, some))
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
  }, [token, keep])

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
    (said: Omit<Said, 'at'>): Said => {
      const whole = { ...said, at: momentAfter(last.current, new Date()) }
      last.current = whole.at
      keep(put(box.current, whole))
      void send()
      return whole
    },
    [keep, send],
  )

  return { waiting, problem, away, say }
}

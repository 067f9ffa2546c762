// Does something that the server may refuse: whether it is under way, what was wrong, and afterwards everything that
// follows from it asked anew. The one way in which the page changes anything.
import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useState } from 'react'
import { renew, type Change } from '../api/subjects'

// then: what is done first of all once it is done; gone: what is no longer there.
type After<T> = { then?: (done: T) => unknown; gone?: string | undefined }

// changes: what it changes, null for what changes nothing; collection: whose, of all where it is left out.
export function useDoing(changes: Change | null, collection?: string) {
  const client = useQueryClient()
  const [busy, setBusy] = useState(false)
  const [problem, setProblem] = useState<Error | null>(null)
  const act = useCallback(
    async <T>(work: () => Promise<T>, { then, gone }: After<T> = {}): Promise<T | null> => {
      setBusy(true)
      setProblem(null)
      try {
        const done = await work()
        await then?.(done)
        if (changes) await renew(client, changes, { collection, gone })
        return done
      } catch (error) {
        setProblem(error instanceof Error ? error : new Error(String(error)))
        return null
      } finally {
        setBusy(false)
      }
    },
    [client, changes, collection],
  )
  return { busy, problem, act, forget: useCallback(() => setProblem(null), []) }
}

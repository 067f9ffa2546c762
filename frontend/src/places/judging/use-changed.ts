// After a change of a judged set everything that follows from it is asked anew.
import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useState } from 'react'
import type { Collection } from '../../api/queries'
import { OF_JUDGING } from '../../thinking/events'

export function useChanged(collection: Collection) {
  const client = useQueryClient()
  // gone: a set that was dropped, of which nothing can be asked any more.
  return useCallback(
    async (gone?: string) => {
      await client.invalidateQueries({
        predicate: ({ queryKey: [what, of, set] }) =>
          what === 'collections' ||
          (OF_JUDGING.includes(String(what)) && of === collection.name && (gone === undefined || set !== gone)),
      })
    },
    [client, collection.name],
  )
}

// Does something that the server may refuse: says whether it is under way and what was wrong.
export function useDoing(collection: Collection) {
  const changed = useChanged(collection)
  const [busy, setBusy] = useState(false)
  const [problem, setProblem] = useState<Error | null>(null)
  const act = useCallback(
    async <T>(work: () => Promise<T>, gone?: string): Promise<T | null> => {
      setBusy(true)
      setProblem(null)
      try {
        const done = await work()
        await changed(gone)
        return done
      } catch (error) {
        setProblem(error instanceof Error ? error : new Error(String(error)))
        return null
      } finally {
        setBusy(false)
      }
    },
    [changed],
  )
  return { busy, problem, act }
}

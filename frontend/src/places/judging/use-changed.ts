// After a change of a judged set everything that follows from it is asked anew.
import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useState } from 'react'
import type { Collection } from '../../api/queries'

const FOLLOWS = ['judged sets', 'judged', 'set queries', 'tasks', 'standing', 'expectations', 'measured', 'compared', 'overview', 'owner page', 'diary', 'outside', 'sides']

export function useChanged(collection: Collection) {
  const client = useQueryClient()
  return useCallback(async () => {
    await Promise.all([
      client.invalidateQueries({ queryKey: ['collections'] }),
      ...FOLLOWS.map((what) => client.invalidateQueries({ queryKey: [what, collection.name] })),
    ])
  }, [client, collection.name])
}

// Does something that the server may refuse: says whether it is under way and what was wrong.
export function useDoing(collection: Collection) {
  const changed = useChanged(collection)
  const [busy, setBusy] = useState(false)
  const [problem, setProblem] = useState<Error | null>(null)
  const act = useCallback(
    async <T>(work: () => Promise<T>): Promise<T | null> => {
      setBusy(true)
      setProblem(null)
      try {
        const done = await work()
        await changed()
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

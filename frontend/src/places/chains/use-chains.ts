// The chains that are looked at: in the address, with a way back for every change.
import { useCallback, useMemo, useRef } from 'react'
import { useAddress } from '../../shell/address'
import { offParam, parsedOff } from '../../thinking/cards'

const NAMES = ['rc', 'ro', 'qc', 'qo', 'with', 'wo', 'third', 'fourth'] as const
type Name = (typeof NAMES)[number]
type State = Record<Name, string | null>

// Letters typed within so many milliseconds are taken back together.
const ONE_GO_MS = 700

export function useChains(usual: { record: string; query: string }) {
  const { params, change } = useAddress()
  const past = useRef<State[]>([])
  const future = useRef<State[]>([])
  const lastAt = useRef(0)

  const now = useCallback(() => {
    const found = new URLSearchParams(window.location.search)
    return Object.fromEntries(NAMES.map((name) => [name, found.get(name)])) as State
  }, [])

  const edit = useCallback(
    (next: Partial<State>) => {
      const at = Date.now()
      if (at - lastAt.current > ONE_GO_MS || past.current.length === 0)
        past.current = [...past.current.slice(-199), now()]
      lastAt.current = at
      future.current = []
      change(next)
    },
    [change, now],
  )
  const step = useCallback(
    (from: typeof past, to: typeof past) => {
      const state = from.current.pop()
      if (!state) return
      to.current.push(now())
      lastAt.current = 0
      change(state)
    },
    [change, now],
  )
  const undo = useCallback(() => step(past, future), [step])
  const redo = useCallback(() => step(future, past), [step])

  const record = params.get('rc') ?? usual.record
  const ownQuery = params.get('qc') ?? usual.query
  const beside = params.get('with')
  const [third, fourth] = [params.get('third'), params.get('fourth')]
  const [recordOff, queryOff, besideOff] = [params.get('ro'), params.get('qo'), params.get('wo')]
  return useMemo(
    () => ({
      record,
      recordOff: parsedOff(recordOff),
      ownQuery,
      query: ownQuery.trim() === '' ? record : ownQuery,
      // A query read as records are has the record chain's stages switched off too.
      queryOff: parsedOff(ownQuery.trim() === '' ? recordOff : queryOff),
      beside,
      besideOff: parsedOff(besideOff),
      // Further chains beside the second.
      more: [third, fourth].flatMap((notation) => (notation === null ? [] : [notation])),
      setMore: (more: string[]) => edit({ third: more[0] ?? null, fourth: more[1] ?? null }),
      setRecord: (notation: string, off: number[] = []) => edit({ rc: notation, ro: offParam(off) }),
      setQuery: (notation: string | null, off: number[] = []) => edit({ qc: notation || null, qo: offParam(off) }),
      setBeside: (notation: string | null, off: number[] = []) =>
        edit({
          with: notation,
          wo: offParam(off),
          ...(notation === null ? { third: null, fourth: null } : {}),
        }),
      setBoth: (recordChain: string | null, queryChain: string | null) =>
        edit({
          ...(recordChain === null ? {} : { rc: recordChain, ro: null }),
          ...(queryChain === null ? {} : { qc: queryChain, qo: null }),
        }),
      undo,
      redo,
    }),
    [record, recordOff, ownQuery, queryOff, beside, besideOff, third, fourth, edit, undo, redo],
  )
}

export type Chains = ReturnType<typeof useChains>

// Undo and redo of the draft's weights. A drag counts as one change: it is committed when it ends.
import { useCallback, useMemo, useRef, useState } from 'react'
import type { Draft } from '../../shell/use-draft'

export type Undo = {
  canUndo: boolean
  canRedo: boolean
  undo: () => void
  redo: () => void
  // Turns the weights for good; what they were can be had back.
  commit: (weights: readonly number[]) => void
  // Turns the weights while a knob is being dragged.
  preview: (weights: readonly number[]) => void
  // The drag is over.
  settle: () => void
}

type Weights = readonly number[]
const same = (a: Weights, b: Weights) => a.length === b.length && a.every((weight, i) => weight === b[i])

export function useUndo(draft: Draft): Undo {
  const [past, setPast] = useState<Weights[]>([])
  const [future, setFuture] = useState<Weights[]>([])
  const beforeDrag = useRef<Weights | null>(null)
  const { weights, turn } = draft

  const remember = useCallback((old: Weights) => {
    setPast((all) => [...all.slice(-199), old])
    setFuture([])
  }, [])

  return useMemo(
    () => ({
      canUndo: past.length > 0,
      canRedo: future.length > 0,
      undo: () => {
        const last = past.at(-1)
        if (!last) return
        setPast(past.slice(0, -1))
        setFuture([...future, weights])
        turn(last)
      },
      redo: () => {
        const next = future.at(-1)
        if (!next) return
        setFuture(future.slice(0, -1))
        setPast([...past, weights])
        turn(next)
      },
      commit: (next: Weights) => {
        if (same(next, weights)) return
        remember(weights)
        turn(next)
      },
      preview: (next: Weights) => {
        beforeDrag.current ??= weights
        turn(next)
      },
      settle: () => {
        const old = beforeDrag.current
        beforeDrag.current = null
        if (old && !same(old, weights)) remember(old)
      },
    }),
    [past, future, weights, turn, remember],
  )
}

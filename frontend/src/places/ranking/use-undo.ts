// Undo and redo of the draft. A drag counts as one change: it is committed when it ends.
import { useCallback, useMemo, useRef, useState } from 'react'
import type { RankerDocument } from '../../api/queries'
import type { Draft } from '../../shell/use-draft'

export type Undo = {
  canUndo: boolean
  canRedo: boolean
  undo: () => void
  redo: () => void
  // Changes the draft for good; what it was can be had back.
  commit: (document: RankerDocument) => void
  // Changes the draft while a knob is being dragged.
  preview: (document: RankerDocument) => void
  // The drag is over.
  settle: () => void
}

const same = (a: RankerDocument, b: RankerDocument) => JSON.stringify(a) === JSON.stringify(b)

export function useUndo(draft: Draft): Undo {
  const [past, setPast] = useState<RankerDocument[]>([])
  const [future, setFuture] = useState<RankerDocument[]>([])
  const beforeDrag = useRef<RankerDocument | null>(null)
  const { document, edit } = draft

  const remember = useCallback((old: RankerDocument) => {
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
        setFuture([...future, document])
        edit(last)
      },
      redo: () => {
        const next = future.at(-1)
        if (!next) return
        setFuture(future.slice(0, -1))
        setPast([...past, document])
        edit(next)
      },
      commit: (next: RankerDocument) => {
        if (same(next, document)) return
        remember(document)
        edit(next)
      },
      preview: (next: RankerDocument) => {
        beforeDrag.current ??= document
        edit(next)
      },
      settle: () => {
        const old = beforeDrag.current
        beforeDrag.current = null
        if (old && !same(old, document)) remember(old)
      },
    }),
    [past, future, document, edit, remember],
  )
}

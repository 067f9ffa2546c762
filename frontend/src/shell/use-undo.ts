// Undo and redo of the draft, the same in every place. A drag counts as one change: it is committed when it ends.
import { useMemo, useSyncExternalStore } from 'react'
import type { RankerDocument } from '../api/queries'
import type { Draft } from './use-draft'

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
  // What was is kept: there is nothing to take back.
  forget: () => void
}

type Steps = { past: RankerDocument[]; future: RankerDocument[] }

const MOST_STEPS = 200
const NONE: Steps = { past: [], future: [] }

const same = (a: RankerDocument, b: RankerDocument) => JSON.stringify(a) === JSON.stringify(b)

// The steps of each collection's draft, for as long as the page is open.
const steps = new Map<string, Steps>()
const beforeDrag = new Map<string, RankerDocument>()
const listeners = new Set<() => void>()

// Ctrl z and Ctrl Shift z; true where it was one of them.
export function undoByKey(event: KeyboardEvent, { undo, redo }: Undo): boolean {
  if (event.key.toLowerCase() !== 'z' || !(event.ctrlKey || event.metaKey)) return false
  event.preventDefault()
  if (event.shiftKey) redo()
  else undo()
  return true
}

function put(collection: string, next: Steps) {
  steps.set(collection, next)
  listeners.forEach((tell) => tell())
}

function listen(tell: () => void) {
  listeners.add(tell)
  return () => void listeners.delete(tell)
}

export function useUndo(draft: Draft): Undo {
  const { document, edit, collection } = draft
  const { past, future } = useSyncExternalStore(listen, () => steps.get(collection) ?? NONE)
  return useMemo(() => {
    const remember = (old: RankerDocument) => {
      const now = steps.get(collection) ?? NONE
      put(collection, { past: [...now.past.slice(1 - MOST_STEPS), old], future: [] })
    }
    return {
      canUndo: past.length > 0,
      canRedo: future.length > 0,
      undo: () => {
        const last = past.at(-1)
        if (!last) return
        put(collection, { past: past.slice(0, -1), future: [...future, document] })
        edit(last)
      },
      redo: () => {
        const next = future.at(-1)
        if (!next) return
        put(collection, { past: [...past, document], future: future.slice(0, -1) })
        edit(next)
      },
      commit: (next: RankerDocument) => {
        if (same(next, document)) return
        remember(document)
        edit(next)
      },
      preview: (next: RankerDocument) => {
        if (!beforeDrag.has(collection)) beforeDrag.set(collection, document)
        edit(next)
      },
      settle: () => {
        const old = beforeDrag.get(collection)
        beforeDrag.delete(collection)
        if (old && !same(old, document)) remember(old)
      },
      forget: () => put(collection, NONE),
    }
  }, [past, future, document, edit, collection])
}

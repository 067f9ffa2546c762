// The draft in view, kept by the server as it changes. One draft of a collection is gone on with at a time.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useEffectEvent } from 'react'
import { ProblemError } from '../api/client'
import { beginDraft, discardDraft, drafts, goOnWithDraft, type KeptDraft } from '../api/drafts'
import type { Collection, RankerDocument } from '../api/queries'
import { keptAs } from '../thinking/drafts'
import { same } from '../thinking/same'

const PAUSE_MS = 500

// What is kept of a draft: the version it stands on, and the document.
type Draft = { baseline: { name: string; version: number }; document: RankerDocument; isBaseline: boolean }

type Kept = { id: number; document: unknown }

// Of one collection: the draft that is gone on with; what is sent, one after the other; whether it is still wanted; and
// how often another draft took its place.
class Keeping {
  kept: Kept | null = null
  private turn: Promise<unknown> = Promise.resolve()
  private unwanted = false
  private taken = 0
  // What was begun while nobody wanted it any more.
  private left: number | null = null

  constructor(private readonly collection: string) {}

  inTurn(work: () => Promise<unknown>): Promise<unknown> {
    // A server that does not answer is told by everything else that is asked; the next change tries again.
    this.turn = this.turn.then(work).catch(() => undefined)
    return this.turn
  }

  keep(known: readonly KeptDraft[], draft: Draft) {
    const { baseline, document } = draft
    const of = this.taken
    return this.inTurn(async () => {
      if (this.unwanted || of !== this.taken) return
      this.adopt(known, draft)
      const found = this.kept
      const isKept = found !== null && same(found.document, document)
      const id = isKept ? found.id : await this.send(found, baseline, document)
      if (of === this.taken) this.kept = { id, document }
      if (this.unwanted) this.left = id
    })
  }

  // A draft that is kept as it stands is gone on with at once.
  adopt(known: readonly KeptDraft[], { baseline, document }: Draft) {
    const found = keptAs(known, { ranker: baseline.name, version: baseline.version, document })
    if (found && this.kept === null) this.kept = { id: found.id, document }
  }

  private async send(found: Kept | null, baseline: Draft['baseline'], document: Draft['document']): Promise<number> {
    if (found) {
      try {
        await goOnWithDraft(this.collection, found.id, document)
        return found.id
      } catch (error) {
        // Somebody discarded it meanwhile, in another window.
        if (!(error instanceof ProblemError && error.problem.status === 404)) throw error
      }
    }
    return (await beginDraft(this.collection, baseline.name, baseline.version, document)).id
  }

  // Another draft, or none, is in view: this one stays as it is, to be offered again.
  leave() {
    this.kept = null
    this.taken += 1
  }

  // The draft in view is none any more: it was kept, discarded or taken back to the baseline.
  letGo() {
    const { kept } = this
    this.unwanted = true
    void this.inTurn(async () => {
      const id = kept?.id ?? this.left
      this.leave()
      this.left = null
      this.unwanted = false
      if (id !== null) await discardDraft(this.collection, id)
    })
  }
}

const keepings = new Map<string, Keeping>()

function keepingOf(collection: string): Keeping {
  const known = keepings.get(collection)
  if (known) return known
  const made = new Keeping(collection)
  keepings.set(collection, made)
  return made
}

export const draftGoneOnWith = (collection: string): number | null => keepingOf(collection).kept?.id ?? null

export const letGo = (collection: string) => keepingOf(collection).letGo()

// Keeps the draft in view, wherever it is edited: once the turning pauses, and when the window goes.
export function useDraftKeeping(collection: Collection, draft: Draft | null) {
  const client = useQueryClient()
  const known = useQuery(drafts(collection.name))
  const isEdited = draft !== null && !draft.isBaseline
  const { name } = collection
  const base = draft && `${draft.baseline.name}:${draft.baseline.version}`
  const now = useEffectEvent(() => {
    if (!isEdited || !known.data) return
    const keeping = keepingOf(name)
    void keeping.keep(known.data, draft).then(() => {
      // Just begun: what the server knows of it is asked for.
      const isNew = keeping.kept !== null && !known.data.some((one) => one.id === keeping.kept?.id)
      if (isNew) void client.invalidateQueries({ queryKey: drafts(name).queryKey })
    })
  })
  const adopt = useEffectEvent(() => {
    if (isEdited && known.data) keepingOf(name).adopt(known.data, draft)
  })
  const document = isEdited ? JSON.stringify(draft.document) : null
  useEffect(() => {
    // Another baseline, or none edited any more by another address: what was is offered again, and not gone on with.
    return () => keepingOf(name).leave()
  }, [name, base, isEdited])
  useEffect(() => {
    if (document === null || !known.isSuccess) return
    adopt()
    const later = setTimeout(() => now(), PAUSE_MS)
    const going = () => now()
    window.addEventListener('pagehide', going)
    return () => {
      clearTimeout(later)
      window.removeEventListener('pagehide', going)
    }
  }, [document, known.isSuccess])
  useEffect(() => {
    // Nothing is edited: what is offered is asked anew, once all that was sent is kept.
    if (!isEdited) void keepingOf(name).inTurn(() => client.invalidateQueries({ queryKey: drafts(name).queryKey }))
  }, [isEdited, name, client])
}

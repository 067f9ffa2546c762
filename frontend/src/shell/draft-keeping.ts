// The draft in view, kept by the server as it changes. One draft of a collection is gone on with at a time.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useEffectEvent } from 'react'
import { ProblemError } from '../api/client'
import { beginDraft, discardDraft, drafts, goOnWithDraft, type KeptDraft } from '../api/drafts'
import type { Collection, RankerDocument } from '../api/queries'
import { keptAs } from '../thinking/drafts'
import { same } from '../thinking/same'
import { useRights } from './use-me'

const PAUSE_MS = 500

// What is kept of a draft: the version it stands on, and the document.
type Draft = { baseline: { name: string; version: number }; document: RankerDocument; isBaseline: boolean }

type Kept = { id: number; document: unknown; revision: number }

// Of one collection: the draft that is gone on with; what is sent, one after the other; whether it is still wanted; and
// how often another draft took its place.
class Keeping {
  kept: Kept | null = null
  private turn: Promise<unknown> = Promise.resolve()
  private unwanted = false
  private taken = 0
  // What was begun while nobody wanted it any more.
  private left: number | null = null
  // That somebody else went on with the draft that was in view, until it is read.
  says: string | null = null

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
      const { id, revision } = isKept ? found : await this.send(found, baseline, document)
      if (of === this.taken) this.kept = { id, document, revision }
      if (this.unwanted) this.left = id
    })
  }

  // A draft that is kept as it stands is gone on with at once.
  adopt(known: readonly KeptDraft[], { baseline, document }: Draft) {
    const found = keptAs(known, { ranker: baseline.name, version: baseline.version, document })
    if (found && this.kept === null) this.kept = { id: found.id, document, revision: found.revision }
  }

  private async send(found: Kept | null, baseline: Draft['baseline'], document: Draft['document']) {
    if (found) {
      try {
        const { revision } = await goOnWithDraft(this.collection, found.id, document, found.revision)
        return { id: found.id, revision }
      } catch (error) {
        const status = error instanceof ProblemError ? error.problem.status : 0
        // Somebody discarded it meanwhile, or goes on with it: this one becomes a draft of its own, and nobody's is lost.
        if (status !== 404 && status !== 409) throw error
        if (status === 409 && error instanceof ProblemError) this.says = error.problem.detail
      }
    }
    return await beginDraft(this.collection, baseline.name, baseline.version, document)
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

export const isGoneOnWith = (id: number): boolean => [...keepings.values()].some((one) => one.kept?.id === id)

// What is to be read of the draft in view once: that it parted from somebody else's.
export const partedFrom = (collection: string): string | null => keepingOf(collection).says
export function readParting(collection: string) {
  keepingOf(collection).says = null
}

export const letGo = (collection: string) => keepingOf(collection).letGo()

// Keeps the draft in view, wherever it is edited: once the turning pauses, and when the window goes.
export function useDraftKeeping(collection: Collection, draft: Draft | null) {
  const client = useQueryClient()
  const known = useQuery(drafts(collection.name))
  // Whoever may only look turns knobs all the same: what comes of it stands in the address.
  const { change: mayChange } = useRights(collection.name)
  const isEdited = mayChange && draft !== null && !draft.isBaseline
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

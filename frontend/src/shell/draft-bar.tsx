// Across the top of every place: that what is edited is not kept, with the way back; or what was left, offered again.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { discardDraft, drafts, type KeptDraft } from '../api/drafts'
import type { Collection } from '../api/queries'
import { draftDocument, draftParam } from '../thinking/draft'
import { offered } from '../thinking/drafts'
import { whenText } from '../thinking/revisions'
import { useAddress } from './address'
import { typing, useKeys } from './keys'
import { useDoing } from './use-doing'
import type { Draft } from './use-draft'
import { partedFrom, readParting } from './draft-keeping'
import { undoByKey, useUndo } from './use-undo'

// ownUndo: the place takes changes of its own back by the same keys.
export function DraftBar(props: { collection: Collection; draft: Draft | null; ownUndo: boolean }) {
  return props.draft && <Bar {...props} draft={props.draft} />
}

function Bar({ collection, draft, ownUndo }: { collection: Collection; draft: Draft; ownUndo: boolean }) {
  const undo = useUndo(draft)
  useKeys((event: KeyboardEvent) => {
    if (!ownUndo && !typing(event)) undoByKey(event, undo)
  })
  return draft.isBaseline ? <Offered collection={collection} draft={draft} /> : <NotKept draft={draft} />
}

const BAR = 'line-b small flex flex-wrap items-baseline gap-x-3 gap-y-1 bg-base-200 px-4 py-1'

function NotKept({ draft }: { draft: Draft }) {
  const undo = useUndo(draft)
  // Looked at anew whenever drafts are, which is when this one parts.
  useQuery({ ...drafts(draft.collection), enabled: false })
  const [read, setRead] = useState(0)
  const parted = partedFrom(draft.collection)
  return (
    <section aria-label="Draft" className={BAR}>
      <span>
        <b className="font-semibold">
          Draft of {draft.baseline.name} {draft.baseline.version}
        </b>
        , not kept
      </span>
      {parted && (
        <span role="status" className="loss">
          {parted} This draft is now one of its own.
          <button
            type="button"
            className="link pl-2"
            onClick={() => {
              readParting(draft.collection)
              setRead(read + 1)
            }}
          >
            Read
          </button>
        </span>
      )}
      <button type="button" className="link" disabled={!undo.canUndo} title="Undo (Ctrl z)" onClick={undo.undo}>
        Undo
      </button>
      <button type="button" className="link" disabled={!undo.canRedo} title="Redo (Ctrl Shift z)" onClick={undo.redo}>
        Redo
      </button>
      <button
        type="button"
        className="link"
        title="Back to the baseline; undo brings the draft again"
        onClick={() => undo.commit(draft.baseline.filled_in)}
      >
        Discard
      </button>
    </section>
  )
}

function Offered({ collection, draft }: { collection: Collection; draft: Draft }) {
  const known = useQuery(drafts(collection.name))
  const undo = useUndo(draft)
  const [putOff, setPutOff] = useState<number[]>([])
  const left = offered(known.data ?? [], draft.isBaseline, putOff)
  const first = left[0]
  if (!first && !undo.canUndo && !undo.canRedo) return null
  return (
    <section aria-label="Drafts that were left" className={BAR}>
      {first && (
        <>
          <OneOffered key={first.id} collection={collection} draft={draft} left={first} />
          <button type="button" className="link" onClick={() => setPutOff([...putOff, first.id])}>
            {left.length > 1 ? `Not now: show the one before (${left.length - 1})` : 'Not now'}
          </button>
        </>
      )}
      {undo.canUndo && (
        <button type="button" className="link" title="Undo (Ctrl z)" onClick={undo.undo}>
          Undo the last change of the draft
        </button>
      )}
      {undo.canRedo && (
        <button type="button" className="link" title="Redo (Ctrl Shift z)" onClick={undo.redo}>
          Redo what was undone
        </button>
      )}
    </section>
  )
}

function OneOffered({ collection, draft, left }: { collection: Collection; draft: Draft; left: KeptDraft }) {
  const { change } = useAddress()
  const client = useQueryClient()
  const { busy, problem, act } = useDoing(null)
  const base = draft.kept.find((one) => one.name === left.ranker && one.version === left.version)
  const takeUp = () => {
    if (!base) return
    const d = draftParam(base.filled_in, draftDocument(base.filled_in, JSON.stringify(left.document)))
    change({ ranker: `${left.ranker}:${left.version}`, d })
  }
  const discard = () =>
    act(() => discardDraft(collection.name, left.id), {
      then: () => client.invalidateQueries({ queryKey: drafts(collection.name).queryKey }),
    })
  return (
    <>
      <span className="min-w-0">
        A draft of{' '}
        <b className="font-semibold">
          {left.ranker} {left.version}
        </b>{' '}
        {left.by_person ? `by ${left.by_person} ` : ''}was left, {whenText(left.changed_at)}:{' '}
        <span className={`wrap-anywhere ${left.problem ? 'loss' : 'quiet'}`}>
          {left.problem ?? left.says.join('; ')}
        </span>
      </span>
      <button type="button" className="link font-semibold" disabled={!base} onClick={takeUp}>
        Take it up
      </button>
      <button type="button" className="link" disabled={busy} onClick={() => void discard()}>
        Discard
      </button>
      {problem && <span className="loss">{problem.message}</span>}
    </>
  )
}

// Records that are no longer there, as they were; each can come back.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Collection } from '../../api/queries'
import { deleted, restoreDeleted } from '../../api/records'
import { Empty, ProblemNote } from '../../parts/notes'
import { RecordFace } from '../../parts/record-face'
import { countText } from '../../thinking/figures'
import { shownFields } from '../../thinking/records'
import { whenText } from '../../thinking/revisions'
import { useDoing } from '../../shell/use-doing'
import { Kept, Unanswered } from '../../parts/answered'
import { Changing } from '../../shell/changing'

const PAGE = 50

export function DeletedView({ collection }: { collection: Collection }) {
  const { busy, problem, act } = useDoing('everything')
  const [first, setFirst] = useState(0)
  const restore = (which: Parameters<typeof restoreDeleted>[1]) =>
    void act(() => restoreDeleted(collection.name, which))
  const gone = useQuery(deleted(collection.name, first))
  if (!gone.data) return <Unanswered asked={[gone]} what="what was deleted" />
  if (gone.data.found === 0) {
    return (
      <Empty title="Nothing is deleted">
        A record that is deleted, or that a replacing import no longer names, is kept here.
      </Empty>
    )
  }
  const shown = shownFields(collection)
  return (
    <Kept asked={[gone]} what="what was deleted" className="h-full">
      <section aria-label="Deleted records" className="h-full overflow-y-auto">
        <p className="line-b quiet small px-4 py-2">{countText(gone.data.found)} deleted, the latest first.</p>
        {problem && <ProblemNote error={problem} />}
        <AtOnce deletions={gone.data.deletions} busy={busy} onRestore={(to) => restore({ ended_revision: to })} />
        <ul className="long-list">
          {gone.data.records.map((state) => (
            <li
              key={state.key}
              className="row-stack line-b grid grid-cols-[120px_minmax(0,1fr)_180px_100px] items-start gap-3 px-4 py-2"
            >
              <span className="truncate font-mono text-[13px]">{state.key}</span>
              <RecordFace
                collection={collection.name}
                shown={shown}
                recordKey={state.key}
                values={state.field_values}
              />
              <span className="quiet small">
                {whenText(state.ended_at)}
                {state.by_person && `, ${state.by_person}`}
                <br />
                with revision {state.ended_revision}
              </span>
              <Changing>
                <button
                  type="button"
                  className="btn btn-ghost btn-sm font-normal"
                  disabled={busy}
                  onClick={() => restore({ keys: [state.key] })}
                >
                  Restore
                </button>
              </Changing>
            </li>
          ))}
        </ul>
        {gone.data.found > PAGE && (
          <p className="flex gap-3 px-4 py-2">
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              disabled={first === 0}
              onClick={() => setFirst(first - PAGE)}
            >
              ← Before
            </button>
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              disabled={first + PAGE >= gone.data.found}
              onClick={() => setFirst(first + PAGE)}
            >
              Next →
            </button>
          </p>
        )}
      </section>
    </Kept>
  )
}

// What one import or one deletion took away, to be brought back at once.
function AtOnce({
  deletions,
  busy,
  onRestore,
}: {
  deletions: { revision: number; at: string; records: number }[]
  busy: boolean
  onRestore: (revision: number) => void
}) {
  if (!deletions.some((one) => one.records > 1)) return null
  return (
    <ul aria-label="Deleted at once" className="line-b px-4 py-2">
      {deletions.map(({ revision, at, records }) => (
        <li key={revision} className="flex items-baseline gap-4 py-0.5">
          <span className="figure w-[70px] text-right">{countText(records)}</span>
          <span className="quiet">
            {whenText(at)}, with revision {revision}
          </span>
          <Changing>
            <button type="button" className="link" disabled={busy} onClick={() => onRestore(revision)}>
              {records === 1 ? 'Restore it' : `Restore all ${countText(records)}`}
            </button>
          </Changing>
        </li>
      ))}
    </ul>
  )
}

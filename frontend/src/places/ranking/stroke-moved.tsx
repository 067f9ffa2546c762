// What moved behind a stroke of the waterline: the records that came into the first results, and those that went.
import { useQuery } from '@tanstack/react-query'
import { movedOn, type Collection, type JudgedSet } from '../../api/queries'
import type { Schemas } from '../../api/client'
import { Delta } from '../../parts/delta'
import { GradeRungs } from '../../parts/grade-rungs'
import { usePaused } from '../../parts/use-paused'
import type { Draft } from '../../shell/use-draft'
import type { Binned } from '../../thinking/movement'

export type QueryOf = (id: string) => JudgedSet['queries'][number] | undefined

export type Moving = { collection: Collection; set: string; draft: Draft; depth: number }

const NAMED = 6
const PAUSE_MS = 150

export function StrokeMoved({ bar, queryOf, ...moving }: { bar: Binned; queryOf: QueryOf } & Moving) {
  const names = bar.strokes.map((stroke) => queryOf(stroke.queryId)?.query ?? stroke.queryId)
  return (
    <div
      role="status"
      aria-label="What moved"
      className="pointer-events-none absolute right-0 bottom-[calc(100%+6px)] z-20 w-[min(560px,100%)] border border-base-300 bg-base-100 px-4 py-2"
    >
      <div className="flex items-baseline gap-3">
        <b dir="auto" className="min-w-0 flex-1 truncate font-semibold">
          {names.slice(0, NAMED).join(', ')}
          {names.length > NAMED && ` and ${names.length - NAMED} more`}
        </b>
        <Delta value={bar.delta} />
      </div>
      {bar.strokes.length === 1 && bar.strokes[0] && <Records queryId={bar.strokes[0].queryId} {...moving} />}
    </div>
  )
}

function Records({ queryId, collection, set, draft, depth }: { queryId: string } & Moving) {
  const wanted = usePaused(queryId, PAUSE_MS)
  const found = useQuery(movedOn(collection, set, wanted, draft.baselineChoice, draft.choice, depth))
  if (found.error) return <p className="small loss">What moved could not be told: {found.error.message}</p>
  if (!found.data || found.data.query_id !== queryId) return <p className="quiet small">Looking what moved …</p>
  const { came, went, reordered } = found.data
  return (
    <>
      <Group what={`Came into the first ${depth}`} records={came} />
      <Group what={`Went from the first ${depth}`} records={went} />
      <Group what="Judged ones that changed places" records={reordered} />
      {came.length + went.length + reordered.length === 0 && (
        <p className="quiet small">No record that counts moved among the first {depth}.</p>
      )}
    </>
  )
}

const SHOWN = 4

function Group({ what, records }: { what: string; records: Schemas['MovedRecord'][] }) {
  if (records.length === 0) return null
  return (
    <section className="pt-1">
      <h3 className="quiet small">{what}</h3>
      <ul className="small">
        {records.slice(0, SHOWN).map((one) => (
          <li key={one.key} className="flex items-baseline gap-2">
            <span className="self-center">
              <GradeRungs grade={one.grade ?? undefined} />
            </span>
            <span dir="auto" className="min-w-0 flex-1 truncate">
              {one.title}
            </span>
            <span className="figure whitespace-nowrap">
              {rankText(one.before)} → {rankText(one.after)}
            </span>
          </li>
        ))}
        {records.length > SHOWN && <li className="quiet">and {records.length - SHOWN} more</li>}
      </ul>
    </section>
  )
}

const rankText = (rank: number | null) => (rank === null ? 'nowhere' : String(rank))

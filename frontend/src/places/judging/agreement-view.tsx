// How far judges agree, where they do not, and what has gone stale.
import type { Collection } from '../../api/queries'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'
import { Link } from 'react-router'
import {
  confirmStale,
  type JudgedSummary,
  queriesOfSet,
  settleGrade,
  type Settling,
  type Standing,
  standingOf,
} from '../../api/judging'
import { Empty, ProblemNote } from '../../parts/notes'
import { carried, useAddress } from '../../shell/address'
import { countText, signedText } from '../../thinking/figures'
import { agreementText, driftText, judgeName } from '../../thinking/judging'
import { ConflictsList, type Conflict } from './conflicts-list'
import { PageOfConflict } from './page-of-conflict'
import type { SetProps } from './set-props'
import { TaskOfRecords } from './task-of-records'
import { useDoing } from '../../shell/use-doing'
import { Kept, Unanswered } from '../../parts/answered'
import { TakeAway } from '../../parts/take-away'
import { TakeTable } from '../../parts/take-table'
import { Changing } from '../../shell/changing'

const SHOWN = 100

export function AgreementView({ collection, set }: SetProps) {
  const found = useQuery(standingOf(collection.name, set.name))
  const queries = useQuery(queriesOfSet(collection.name, set.name))
  const { busy, problem, act } = useDoing('judging', collection.name)
  const { params } = useAddress()
  const byId = useMemo(() => new Map((queries.data ?? []).map((one) => [one.query_id, one])), [queries.data])
  const client = useQueryClient()
  const settle = useCallback(
    (conflict: Conflict, grade: number | null, note: string) =>
      void act(
        () => settleGrade(collection.name, set.name, conflict.query_id, conflict.record_key, grade, note),
        // Shown at once; what follows from it comes later.
        { then: (answer) => client.setQueryData(standingOf(collection.name, set.name).queryKey, answer) },
      ),
    [act, client, collection.name, set.name],
  )
  if (!found.data) return <Unanswered asked={[found]} what="what judges said" />
  const standing = found.data
  if (standing.judged === 0 && standing.judges.length === 0) {
    return (
      <Empty title="Nobody judged yet">
        Make a task under Tasks and send each judge their link; or bring judgments under Rules and files.
      </Empty>
    )
  }
  const textOf = (id: string) => byId.get(id)?.query ?? id
  const ranking = (query: string, record: string) =>
    `/${collection.name}/ranking${carried(params, { q: byId.get(query)?.query ?? '', row: record })}`
  return (
    <Kept asked={[found]} what="what judges said" className="h-full">
      <div className="panes grid h-full grid-cols-[minmax(0,1fr)_380px]">
        <Conflicts
          problem={problem}
          standing={standing}
          set={set}
          textOf={textOf}
          byId={byId}
          ranking={ranking}
          settle={settle}
          collection={collection}
          busy={busy}
          act={act}
        />
        <Judges standing={standing} textOf={textOf} />
      </div>
    </Kept>
  )
}

// A row for each judge of each conflict, the widest conflicts first.
const conflictsTable = (standing: Standing, textOf: (id: string) => string) => [
  ['query', 'record', 'title', 'judge', 'grade', 'note', 'counts', 'settled by hand'],
  ...standing.conflicts.flatMap((one) =>
    one.given.map((own) => [
      ...[textOf(one.query_id), one.record_key, standing.titles[one.record_key] ?? '', judgeName(own.judge)],
      ...[own.grade ?? 'passed', own.note, one.counts ?? '', one.settled_by_hand ? 'yes' : ''],
    ]),
  ),
]

function Conflicts({
  problem,
  standing,
  set,
  textOf,
  byId,
  ranking,
  settle,
  collection,
  busy,
  act,
}: {
  problem: null | Error
  standing: Standing
  set: JudgedSummary
  textOf: (id: string) => string
  byId: Map<
    string,
    {
      asked: number | null
      filters: { [key: string]: unknown }[]
      graded: number
      language: string | null
      locked: boolean
      need: string
      nothing_to_find: boolean
      query: string
      query_id: string
      relevant: number
      tags: string[]
    }
  >
  ranking: (query: string, record: string) => string
  settle: (conflict: Conflict, grade: number | null, note: string) => void
  collection: Collection
  busy: boolean
  act: ReturnType<typeof useDoing>['act']
}) {
  return (
    <section aria-label="Conflicts" className="min-h-0 overflow-y-auto">
      {problem && <ProblemNote error={problem} />}
      <h2 className="heading quiet px-4 pt-3 pb-1">
        {standing.open_conflicts === 0
          ? 'No conflict is open'
          : `${standing.open_conflicts === 1 ? '1 conflict' : `${countText(standing.open_conflicts)} conflicts`}: judges two grades apart or more`}
      </h2>
      <p className="quiet small px-4 pb-2">
        Until somebody settles a conflict, the set’s rule decides: {RULES[set.settling]}.{' '}
        {standing.conflicts.length > 0 && (
          <TakeAway what="the conflicts" file={`${set.name}-conflicts`} rows={() => conflictsTable(standing, textOf)} />
        )}
      </p>
      <ConflictsList
        standing={standing}
        textOf={textOf}
        needOf={(id) => byId.get(id)?.need ?? ''}
        linkTo={ranking}
        below={(one) => (
          <PageOfConflict
            key={`${one.query_id} ${one.record_key}`}
            collection={collection}
            query={textOf(one.query_id)}
            recordKey={one.record_key}
          />
        )}
        onSettle={settle}
      />
      <Stale
        collection={collection}
        set={set}
        standing={standing}
        busy={busy}
        textOf={textOf}
        linkTo={ranking}
        onConfirm={(query, record) => act(() => confirmStale(collection.name, set.name, query, record))}
      />
    </section>
  )
}

function Judges({ standing, textOf }: { standing: Standing; textOf: (id: string) => string }) {
  return (
    <aside aria-label="Judges" className="line-l min-h-0 overflow-y-auto px-4 py-3">
      <p className="quiet small">{standing.measure}</p>
      <p className="text-[24px] font-semibold" data-testid="agreement">
        {standing.agreement === null ? '–' : signedText(standing.agreement, 3)}
      </p>
      <p className="small pb-3">
        {agreementText(standing.agreement)}; {countText(standing.shared)} of {countText(standing.judged)} records were
        judged by several. 1 is always, 0 no more than guessing would give.
      </p>
      <h2 className="heading quiet pb-1">Judges</h2>
      <ul className="pb-3">
        {standing.judges.map((one) => (
          <li key={one.judge} className="py-1">
            <span className="flex items-baseline gap-2">
              <b className="min-w-0 flex-1 truncate font-semibold">{judgeName(one.judge)}</b>
              <span className="figure small">
                {countText(one.judged)} judged{one.passed > 0 && `, ${countText(one.passed)} passed`}
              </span>
            </span>
            {driftText(one) && <span className="small block">{driftText(one)}</span>}
          </li>
        ))}
      </ul>
      {standing.queries.length > 0 && (
        <table className="w-full">
          <caption className="heading quiet pb-1 text-left">
            Least agreed queries <TakeTable what="the queries by agreement" file="agreement" />
          </caption>
          <tbody>
            {[...standing.queries]
              .sort((a, b) => (a.agreement ?? 2) - (b.agreement ?? 2))
              .slice(0, 15)
              .map((one) => (
                <tr key={one.query_id}>
                  <td className="max-w-0 truncate pr-2" title={textOf(one.query_id)}>
                    {textOf(one.query_id)}
                  </td>
                  <td className="figure quiet small w-[70px]">{one.shared} shared</td>
                  <td className="figure w-[58px]">{one.agreement === null ? '–' : signedText(one.agreement)}</td>
                </tr>
              ))}
          </tbody>
        </table>
      )}
    </aside>
  )
}

export const RULES: Record<Settling, string> = {
  median: 'the median of the grades counts, the lower of two middle ones',
  latest: 'the latest grade counts',
  by_hand: 'no grade counts while judges differ',
}

type StaleProps = SetProps & {
  standing: Standing
  busy: boolean
  textOf: (id: string) => string
  linkTo: (query: string, record: string) => string
  onConfirm: (query: string, record: string) => void
}

function Stale(props: StaleProps) {
  const { stale, stale_in_all: staleInAll, titles } = props.standing
  const there = stale.filter((one) => !one.gone)
  if (stale.length === 0) return null
  return (
    <>
      <h2 className="heading quiet px-4 pt-4 pb-1">
        {countText(staleInAll)} gone stale: the record changed after it was judged
      </h2>
      <ul aria-label="Stale judgments" className="long-list">
        {stale.slice(0, SHOWN).map((one) => (
          <li key={`${one.query_id} ${one.record_key}`} className="line-b flex items-baseline gap-3 px-4 py-2">
            <Link className="min-w-0 flex-1 truncate" to={props.linkTo(one.query_id, one.record_key)}>
              <b className="font-semibold">{props.textOf(one.query_id)}</b> <span className="quiet">and</span>{' '}
              {titles[one.record_key] ?? ''} <span className="quiet font-mono text-[13px]">{one.record_key}</span>
            </Link>
            <span className="small quiet">
              {one.gone ? 'the record is gone' : `${one.judgments} ${one.judgments === 1 ? 'judgment' : 'judgments'}`}
            </span>
            {!one.gone && (
              <Changing>
                <button
                  type="button"
                  className="btn btn-xs"
                  disabled={props.busy}
                  onClick={() => props.onConfirm(one.query_id, one.record_key)}
                >
                  still right
                </button>
              </Changing>
            )}
          </li>
        ))}
      </ul>
      {staleInAll > SHOWN && <p className="quiet small px-4 py-2">and {countText(staleInAll - SHOWN)} more</p>}
      {there.length > 0 && (
        <div className="px-4 pb-4">
          <TaskOfRecords
            collection={props.collection}
            set={props.set.name}
            name="Judge again what changed"
            items={there.map(({ query_id, record_key }) => ({ query_id, record_key }))}
          />
        </div>
      )}
    </>
  )
}

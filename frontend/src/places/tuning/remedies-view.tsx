// What would help: the worst queries grouped by what ails them, and what each change that was tried does to all.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Collection } from '../../api/queries'
import { beginRemedies, cancelRemedies, remedies, type Remedies, type RemedyGroup, type Tried } from '../../api/tuning'
import { addEntry } from '../../api/chains'
import { Kept, Unanswered } from '../../parts/answered'
import { Delta } from '../../parts/delta'
import { GradeRungs } from '../../parts/grade-rungs'
import { Empty, ProblemNote } from '../../parts/notes'
import { TakeAway } from '../../parts/take-away'
import { carried, useAddress } from '../../shell/address'
import { useDoing } from '../../shell/use-doing'
import { deltaText, measureText } from '../../thinking/figures'
import { askedAs } from '../../thinking/judging'
import { isOfDraft } from '../../thinking/ledger'
import { groupHint, groupTitle, isBeyondLuck, remediesTable, triedInAll } from '../../thinking/remedies'
import { JobHead } from './job-head'
import { usePlan } from './use-plan'

export function RemediesView({ collection, set }: { collection: Collection; set: string }) {
  const found = useQuery(remedies(collection.name))
  const { error, plan, name, by, makeDraft } = usePlan(collection)
  const { busy, problem, act } = useDoing('tuning', collection.name)
  if (error) return <ProblemNote error={error} />
  if (!found.data || plan === null) return <Unanswered asked={[found]} what="what would help" />
  const own = found.data.find((one) => isOfDraft(one, plan, set))
  const isRunning = own?.state === 'running' || own?.state === 'waiting'
  const hasAny = own !== undefined && own.groups.length > 0
  return (
    <Kept asked={[found]} what="what would help" className="h-full">
      <div className="h-full overflow-y-auto" tabIndex={0} role="region" aria-label="What would help">
        <JobHead
          says={
            <>
              What would help {name}: {by} on {set}
              {own && own.mean !== null && <Standing told={own} />}
            </>
          }
          state={own?.state}
          progress={own?.in_all ? `${own.done} of ${own.in_all} changes` : 'looking at the worst queries'}
          busy={busy}
          make="Look for remedies"
          onMake={() => void act(() => beginRemedies(collection.name, set, plan))}
          onCancel={() => own && void act(() => cancelRemedies(collection.name, own.id))}
        >
          {hasAny && <TakeAway what="what was tried" file={`${set}-remedies`} rows={() => remediesTable(own)} />}
        </JobHead>
        {problem && <ProblemNote error={problem} />}
        {own?.problem && own.state !== 'cancelled' && <p className="loss px-4 py-2">{own.problem}</p>}
        {own && !own.is_current && (
          <p role="note" className="loss px-4 pt-2">
            Records or judgments changed since this was made: make it anew.
          </p>
        )}
        {hasAny ? (
          <Groups told={own} collection={collection} onTry={makeDraft} />
        ) : own && own.mean !== null ? (
          <Empty title="Nothing ails it">No query with good records comes out badly by this measure.</Empty>
        ) : (
          !isRunning && (
            <Empty title="Not looked for yet">
              The queries that come out worst are grouped by what ails them. For each group changes are tried on all
              open queries: knobs, chains, spaces, and synonyms found in the words of good records. It goes on while you
              are elsewhere.
            </Empty>
          )
        )}
      </div>
    </Kept>
  )
}

function Standing({ told }: { told: Remedies }) {
  const ailing = told.groups.reduce((sum, group) => sum + group.queries.length, 0)
  return (
    <span className="quiet small">
      {' '}
      {measureText(told.mean ?? 0)}; {ailing} queries come out badly, {told.well_served} do not
    </span>
  )
}

type Trying = { collection: Collection; onTry: (document: unknown) => void }

function Groups({ told, ...trying }: { told: Remedies } & Trying) {
  const looks = triedInAll(told.groups)
  return (
    <>
      {looks > 0 && (
        <p className="quiet small px-4 pt-2">
          {looks} changes were tried on the queries that they are measured on, so that some look good by luck: those
          that do not are marked. The locked queries decide.
        </p>
      )}
      {told.groups.map((group) => (
        <Group key={groupTitle(group)} group={group} looks={looks} {...trying} />
      ))}
    </>
  )
}

function Group({ group, looks, ...trying }: { group: RemedyGroup; looks: number } & Trying) {
  const { params } = useAddress()
  const hint = groupHint(group)
  const count = group.queries.length
  return (
    <section aria-label={groupTitle(group)} className="line-b px-4 py-3">
      <h2 className="font-semibold">
        {groupTitle(group)}{' '}
        <span className="quiet font-normal">
          {count} {count === 1 ? 'query' : 'queries'}
        </span>
      </h2>
      {hint && (
        <p className="quiet small">
          {hint}{' '}
          <Link
            className="link inline-block min-h-6"
            to={`/${trying.collection.name}/judging${carried(params, { view: 'tasks' })}`}
          >
            have them judged
          </Link>
        </p>
      )}
      <Queries group={group} collection={trying.collection} />
      {group.tried.length > 0 && <TriedTable group={group} looks={looks} {...trying} />}
      {group.untried > 0 && (
        <p className="quiet small pt-1">
          {group.untried} more {group.untried === 1 ? 'was' : 'were'} not tried: each builds an index of its own.
        </p>
      )}
    </section>
  )
}

const SHOWN = 5

function Queries({ group, collection }: { group: RemedyGroup; collection: Collection }) {
  const { params } = useAddress()
  const [all, setAll] = useState(false)
  const shown = all ? group.queries : group.queries.slice(0, SHOWN)
  return (
    <ul className="small pt-1">
      {shown.map(({ query_id, query, value, best }) => (
        <li key={query_id} className="flex flex-wrap items-baseline gap-x-3">
          <span className="figure w-[44px]">{measureText(value)}</span>
          <Link
            dir="auto"
            className="link inline-block min-h-6"
            to={`/${collection.name}/ranking${carried(params, { ...askedAs({ query, filters: [] }), tab: 'not', key: best.key })}`}
          >
            {query}
          </Link>
          <span className="quiet flex min-w-0 items-baseline gap-1.5">
            misses
            <span className="self-center">
              <GradeRungs grade={best.grade} />
            </span>
            <span dir="auto" className="min-w-0 truncate">
              {best.title}
            </span>
            <span className="whitespace-nowrap">{best.rank === null ? 'not found' : `number ${best.rank}`}</span>
          </span>
          {best.lacks.length > 0 && (
            <span className="quiet">
              without <span dir="auto">{best.lacks.map((word) => `“${word}”`).join(' ')}</span>
            </span>
          )}
        </li>
      ))}
      {group.queries.length > shown.length && (
        <li>
          <button type="button" className="link min-h-6" onClick={() => setAll(true)}>
            {group.queries.length - shown.length} more
          </button>
        </li>
      )}
    </ul>
  )
}

const HEADS = ['mean', '95 %', 'of these', 'of all', 'change']

function TriedTable({ group, looks, ...trying }: { group: RemedyGroup; looks: number } & Trying) {
  const [open, setOpen] = useState<string | null>(null)
  return (
    <div className="overflow-x-auto pt-2">
      <table className="w-full text-left">
        <thead>
          <tr className="quiet small">
            {HEADS.map((head, i) => (
              <th key={head} scope="col" className={`py-1 pr-4 font-normal ${i < 4 ? 'text-right' : ''}`}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {group.tried.map((one) => (
            <TriedRows
              key={one.words}
              one={one}
              isBeyond={isBeyondLuck(one, looks)}
              isOpen={open === one.words}
              onOpen={() => setOpen(open === one.words ? null : one.words)}
              {...trying}
            />
          ))}
        </tbody>
      </table>
    </div>
  )
}

function TriedRows(props: { one: Tried; isBeyond: boolean; isOpen: boolean; onOpen: () => void } & Trying) {
  const { one, isBeyond, isOpen } = props
  return (
    <>
      <tr className="line-t align-baseline">
        <td className="py-1 pr-4 text-right whitespace-nowrap">
          <Delta value={one.gain} />
        </td>
        <td className="figure quiet small pr-4 text-right whitespace-nowrap">
          {deltaText(one.low)} to {deltaText(one.high)}
        </td>
        <td className="figure pr-4 text-right whitespace-nowrap">
          <GainedLost gained={one.gained_here} lost={one.lost_here} />
        </td>
        <td className="figure pr-4 text-right whitespace-nowrap">
          <GainedLost gained={one.gained} lost={one.lost} />
        </td>
        <td className="w-full min-w-64">
          <button
            type="button"
            aria-expanded={isOpen}
            className="min-h-6 cursor-pointer text-left wrap-anywhere hover:underline"
            onClick={props.onOpen}
          >
            <span dir="auto">{one.words}</span>
          </button>
          {isBeyond && <span className={`small pl-2 ${one.gain > 0 ? 'gain' : 'loss'}`}>more than luck</span>}
        </td>
      </tr>
      {isOpen && (
        <tr>
          <td colSpan={HEADS.length} className="pb-3">
            <Moved {...props} />
          </td>
        </tr>
      )}
    </>
  )
}

function GainedLost({ gained, lost }: { gained: number; lost: number }) {
  return (
    <>
      <span className={gained > 0 ? 'gain' : 'quiet'}>▲{gained}</span>{' '}
      <span className={lost > 0 ? 'loss' : 'quiet'}>▼{lost}</span>
    </>
  )
}

function Moved({ one, collection, onTry }: { one: Tried } & Trying) {
  const { act, busy, problem } = useDoing('everything', collection.name)
  const list = one.new_list
  // The list first: the draft names the version that it becomes.
  const take = () =>
    list === null
      ? onTry(one.document)
      : void act(() => addEntry(collection.name, list), { then: () => onTry(one.document) })
  return (
    <>
      {one.moved.length === 0 && <p className="quiet small">No judged query is moved by it.</p>}
      <ul className="small">
        {one.moved.map((query) => (
          <li key={query.query_id}>
            <Delta value={query.after - query.before} /> <span dir="auto">{query.query}</span>{' '}
            <span className="quiet">
              {measureText(query.before)} to {measureText(query.after)}
            </span>
          </li>
        ))}
      </ul>
      <button type="button" className="btn btn-xs mt-2" disabled={busy} onClick={take}>
        Take it into the draft
      </button>
      {list !== null && (
        <span className="quiet small pl-3">
          {list.columns === 'word' ? 'If nobody means anything by it.' : 'If they mean the same.'} It keeps version{' '}
          {list.version} of @{list.name}.
        </span>
      )}
      {problem && <ProblemNote error={problem} />}
    </>
  )
}

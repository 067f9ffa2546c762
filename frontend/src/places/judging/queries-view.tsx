// The queries of a judged set: found, read, changed, added one by one or as a list.
import { useQuery } from '@tanstack/react-query'
import { useEffect, useEffectEvent, useMemo, useRef } from 'react'
import { queriesOfSet, type ListedQuery } from '../../api/judging'
import { Empty } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { useTyped } from '../../shell/use-typed'
import { countText } from '../../thinking/figures'
import { foundQueries, queriesTable } from '../../thinking/set-queries'
import type { SetProps } from './set-props'
import { ListForm } from './list-form'
import { QueryForm } from './query-form'
import { Kept, Unanswered } from '../../parts/answered'
import { Room } from '../../parts/room'
import { TakeAway } from '../../parts/take-away'
import { useWindowed } from '../../parts/use-windowed'
import { Changing } from '../../shell/changing'

export function QueriesView({ collection, set }: SetProps) {
  const { params, change } = useAddress()
  const found = useQuery(queriesOfSet(collection.name, set.name))
  // What is typed counts at once, whatever else is written to the address in the same moment.
  const [words, setWords] = useTyped(params.get('find') ?? '')
  const shown = useMemo(() => foundQueries(found.data ?? [], words), [found.data, words])
  const adding = params.get('new')
  const here = shown.find((one) => one.query_id === params.get('query')) ?? shown[0]
  const box = useRef<HTMLInputElement>(null)
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
    const step = { j: 1, k: -1 }[event.key]
    const next = step ? shown[shown.findIndex((one) => one.query_id === here?.query_id) + step] : undefined
    if (next) change({ query: next.query_id, new: null })
    else if (event.key === 'n') {
      event.preventDefault()
      change({ new: 'query' })
    } else if (event.key === 'f') {
      event.preventDefault()
      box.current?.focus()
    }
  })
  if (!found.data) return <Unanswered asked={[found]} what="the queries" />
  const all = found.data
  return (
    <Kept asked={[found]} what="the queries" className="h-full">
      <div className="panes grid h-full grid-cols-[minmax(0,1fr)_380px]">
        <section aria-label="Queries of the set" className="flex min-h-0 flex-col">
          <div className="line-b flex flex-wrap items-center gap-2 px-4 py-2">
            <input
              dir="auto"
              ref={box}
              type="search"
              aria-label="Find among the queries"
              placeholder="find by words, tag:…, locked, unjudged  ( f )"
              className="input input-sm min-w-80 flex-1 border-base-300 bg-transparent"
              value={words}
              onChange={(event) => {
                setWords(event.target.value)
                change({ find: event.target.value || null, query: null })
              }}
            />
            <Adding shown={shown} all={all.length} />
          </div>
          <div className="long-table min-h-0 flex-1 overflow-y-auto">
            {all.length === 0 ? (
              <Empty title="No query yet">
                Add one (<kbd>n</kbd>), paste a list or what visitors asked, bring files under Rules and files, or press{' '}
                <kbd>c</kbd> in Ranking where a result is wrong.
              </Empty>
            ) : (
              <Rows
                queries={shown}
                here={adding ? null : (here?.query_id ?? null)}
                seen={params.get('query') !== null}
                onChoose={(id) => change({ query: id, new: null })}
              />
            )}
          </div>
        </section>
        <aside aria-label="Query" className="line-l min-h-0 overflow-y-auto px-4 py-3">
          {adding === 'list' ? (
            <ListForm collection={collection} set={set} />
          ) : adding === 'query' || !here ? (
            // Nothing is found, or there is nothing yet: whoever types in Find goes on typing there.
            <QueryForm key="new" collection={collection} set={set} query={null} asked={adding === 'query'} />
          ) : (
            <QueryForm key={`${here.query_id} ${set.revision}`} collection={collection} set={set} query={here} />
          )}
        </aside>
      </div>
    </Kept>
  )
}

// How many are shown, and the ways to add to them.
function Adding({ shown, all }: { shown: ListedQuery[]; all: number }) {
  const { change } = useAddress()
  return (
    <>
      <span className="quiet small">
        {shown.length === all ? `${countText(all)} queries` : `${countText(shown.length)} of ${countText(all)}`}
      </span>
      <Changing>
        <button
          type="button"
          className="btn btn-sm"
          title="Add a query (n)"
          onClick={() => change({ new: 'query' }, false)}
        >
          Add
        </button>
        <button type="button" className="btn btn-sm" onClick={() => change({ new: 'list' }, false)}>
          Paste a list
        </button>
      </Changing>
      <TakeAway what="the queries" file="judged-queries" rows={() => queriesTable(shown)} />
    </>
  )
}

function Rows(props: {
  queries: ListedQuery[]
  here: string | null
  // Whether it was chosen, and is to be seen.
  seen: boolean
  onChoose: (id: string) => void
}) {
  const { queries, here, seen } = props
  const { body, first, end, before, after, scrollTo } = useWindowed<HTMLTableSectionElement>(queries.length, 33)
  const place = seen ? queries.findIndex((one) => one.query_id === here) : -1
  const toChosen = useEffectEvent(scrollTo)
  useEffect(() => {
    if (place >= 0) toChosen(place)
  }, [place])
  return (
    <table className="w-full min-w-[600px] table-fixed" aria-rowcount={queries.length + 1}>
      <thead>
        <tr className="quiet small line-b sticky top-0 z-10 bg-base-100 text-left">
          <th className="w-[30%] py-2 pr-2 pl-4 font-normal">query</th>
          <th className="px-2 font-normal">need</th>
          <th className="w-[120px] px-2 font-normal">tags</th>
          <th className="w-[84px] px-2 text-right font-normal">asked</th>
          <th className="w-[70px] px-2 text-right font-normal" title="Records with a grade; of them relevant">
            graded
          </th>
          <th className="w-[66px] py-2 pr-4 pl-2 text-right font-normal">relevant</th>
        </tr>
      </thead>
      <tbody ref={body}>
        <Room height={before} />
        {queries.slice(first, end).map((one, i) => (
          <tr
            key={one.query_id}
            aria-current={one.query_id === here ? 'true' : undefined}
            aria-rowindex={first + i + 2}
            ref={(element) => {
              if (one.query_id === here && seen) element?.scrollIntoView({ block: 'nearest' })
            }}
            className={`line-b cursor-pointer hover:bg-base-200 ${one.query_id === here ? 'bg-base-200' : ''}`}
            onClick={() => props.onChoose(one.query_id)}
          >
            <td className="truncate py-1.5 pr-2 pl-4">
              <button
                type="button"
                className="max-w-full cursor-pointer truncate text-left font-semibold"
                title={one.query}
              >
                {one.query}
              </button>
              {one.locked && <span className="quiet small"> locked</span>}
            </td>
            <td className="quiet small truncate px-2" title={one.need}>
              {one.need}
            </td>
            <td className="quiet small truncate px-2" title={one.tags.join(', ')}>
              {one.tags.join(', ')}
            </td>
            <td className="figure truncate px-2">{one.asked === null ? '–' : countText(one.asked)}</td>
            <td className="figure px-2">{one.graded}</td>
            <td className="figure py-1.5 pr-4 pl-2">{one.nothing_to_find ? 'nothing' : one.relevant}</td>
          </tr>
        ))}
        <Room height={after} />
      </tbody>
    </table>
  )
}

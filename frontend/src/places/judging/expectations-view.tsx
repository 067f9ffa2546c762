// Expectations: plain demands, and whether they hold for the draft.
import { TakeAway } from '../../parts/take-away'
import { useQuery } from '@tanstack/react-query'
import type { ListedQuery, Expectation } from '../../api/judging'
import { Link } from 'react-router'
import { expectNoMore, expectationsOf, queriesOfSet } from '../../api/judging'
import { Empty, ProblemNote } from '../../parts/notes'
import { carried, useAddress } from '../../shell/address'
import { useMeter } from '../../shell/use-meter'
import type { SetProps } from './set-props'
import { useDoing } from '../../shell/use-doing'
import { ExpectationForm } from './expectation-form'
import { Kept, Unanswered } from '../../parts/answered'
import { Changing } from '../../shell/changing'

export function ExpectationsView({ collection, set }: SetProps) {
  const found = useQuery(expectationsOf(collection.name, set.name))
  const queries = useQuery(queriesOfSet(collection.name, set.name))
  const { meter } = useMeter(collection)
  const doing = useDoing('judging', collection.name)
  if (!found.data) return <Unanswered asked={[found]} what="the expectations" />
  // What was measured before the set changed says nothing of what is expected since.
  const known = meter?.set === set.name && meter.draft.made_of.judged_revision >= set.revision
  const broken = new Map((known ? meter.draft.figures.broken : []).map((one) => [one.expectation.id, one.instead]))
  const byId = new Map((queries.data ?? []).map((one) => [one.query_id, one]))
  return (
    <Kept asked={[found]} what="the expectations" className="h-full">
      <div className="panes grid h-full grid-cols-[minmax(0,1fr)_380px]">
        <section aria-label="Expectations" className="min-h-0 overflow-y-auto">
          {doing.problem && <ProblemNote error={doing.problem} />}
          {found.data.length === 0 ? (
            <Empty title="Nothing is expected yet">
              An expectation needs no grading: this record in the top 3 for that query; never that one. It is checked
              with every measurement. <kbd>c</kbd> in Ranking makes one of a complaint.
            </Empty>
          ) : (
            <>
              <p className="line-b px-4 py-1 text-right">
                <TakeAway
                  what="the expectations"
                  file={`${set.name}-expectations`}
                  rows={() => [
                    ['query', 'expected', 'note', 'instead'],
                    ...found.data.map((one) => [
                      ...[byId.get(one.query_id)?.query ?? one.query_id, one.said, one.note],
                      broken.get(one.id) ?? '',
                    ]),
                  ]}
                />
              </p>
              <ul className="long-list">
                {found.data.map((one) => (
                  <Line
                    key={one.id}
                    collection={collection.name}
                    expectation={one}
                    query={byId.get(one.query_id)}
                    known={known}
                    instead={broken.get(one.id)}
                    busy={doing.busy}
                    onEnd={() => doing.act(() => expectNoMore(collection.name, set.name, one.id))}
                  />
                ))}
              </ul>
            </>
          )}
        </section>
        <aside aria-label="New expectation" className="line-l min-h-0 overflow-y-auto px-4 py-3">
          <ExpectationForm collection={collection} set={set} queries={queries.data ?? []} doing={doing} />
        </aside>
      </div>
    </Kept>
  )
}

function Line(props: {
  collection: string
  expectation: Expectation
  query: ListedQuery | undefined
  known: boolean
  instead: string | undefined
  busy: boolean
  onEnd: () => void
}) {
  const { expectation: one, query, known, instead } = props
  const { params } = useAddress()
  return (
    <li
      className="line-b flex flex-wrap items-baseline justify-end gap-3 px-4 py-2"
      aria-label={`${query?.query ?? one.query_id}: ${one.said}`}
    >
      <span className="min-w-0 flex-[1_1_260px]">
        <Link
          className="font-semibold"
          to={`/${props.collection}/ranking${carried(params, { q: query?.query ?? '', ...(one.record_key ? { row: one.record_key } : {}) })}`}
        >
          {query?.query ?? one.query_id}
        </Link>
        <span className="block">{one.said}</span>
        {one.note && <span className="quiet small block wrap-anywhere">“{one.note}”</span>}
      </span>
      <span className={`small max-w-[190px] text-right ${instead ? 'loss' : 'quiet'}`}>
        {query?.locked ? 'of a locked query' : !known ? 'measuring …' : instead ? `broken: ${instead}` : 'holds'}
      </span>
      <Changing>
        <button
          type="button"
          className="link small"
          title="Not checked any more; what was measured before still knows it"
          disabled={props.busy}
          onClick={props.onEnd}
        >
          expect it no more
        </button>
      </Changing>
    </li>
  )
}

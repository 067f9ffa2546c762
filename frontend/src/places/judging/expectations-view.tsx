// Expectations: plain demands, and whether they hold for the draft.
import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link } from 'react-router'
import { expectNoMore, expectThat, expectationsOf, queriesOfSet } from '../../api/judging'
import { Empty, Loading, ProblemNote } from '../../parts/notes'
import { carried, useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { useMeter } from '../../shell/use-meter'
import type { SetProps } from './set-props'
import { useDoing } from '../../shell/use-doing'

const KINDS = {
  among_first: 'this record among the first',
  never: 'never this record',
  more_than: 'more records than',
  nothing: 'nothing at all',
} as const
type Kind = keyof typeof KINDS

export function ExpectationsView({ collection, set }: SetProps) {
  const found = useQuery(expectationsOf(collection.name, set.name))
  const queries = useQuery(queriesOfSet(collection.name, set.name))
  const { meter } = useMeter(collection)
  const { params } = useAddress()
  const { busy, problem, act } = useDoing('judging', collection.name)
  const [query, setQuery] = useState('')
  const [kind, setKind] = useState<Kind>('among_first')
  const [record, setRecord] = useState('')
  const [number, setNumber] = useState(3)
  const [note, setNote] = useState('')
  const first = useRef<HTMLInputElement>(null)
  useKeys((event: KeyboardEvent) => {
    if (event.key !== 'n' || typing(event) || event.ctrlKey || event.metaKey) return
    event.preventDefault()
    first.current?.focus()
  })
  if (found.isPending) return <Loading what="the expectations" />
  if (found.isError) return <ProblemNote error={found.error} />
  // What was measured before the set changed says nothing of what is expected since.
  const known = meter?.set === set.name && meter.draft.made_of.judged_revision >= set.revision
  const broken = new Map((known ? meter.draft.broken : []).map((one) => [one.expectation.id, one.instead]))
  const byId = new Map((queries.data ?? []).map((one) => [one.query_id, one]))
  const chosen = (queries.data ?? []).find((one) => one.query === query || one.query_id === query)
  const input = 'input input-sm w-full border-base-300 bg-transparent'
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_380px]">
      <section aria-label="Expectations" className="min-h-0 overflow-y-auto">
        {problem && <ProblemNote error={problem} />}
        {found.data.length === 0 ? (
          <Empty title="Nothing is expected yet">
            An expectation needs no grading: this record in the top 3 for that query; never that one. It is checked with
            every measurement. <kbd>c</kbd> in Ranking makes one of a complaint.
          </Empty>
        ) : (
          <ul>
            {found.data.map((one) => {
              const instead = broken.get(one.id)
              const own = byId.get(one.query_id)
              return (
                <li
                  key={one.id}
                  className="line-b flex items-baseline gap-3 px-4 py-2"
                  aria-label={`${own?.query ?? one.query_id}: ${one.said}`}
                >
                  <span className="min-w-0 flex-1">
                    <Link
                      className="font-semibold"
                      to={`/${collection.name}/ranking${carried(params, { q: own?.query ?? '', ...(one.record_key ? { row: one.record_key } : {}) })}`}
                    >
                      {own?.query ?? one.query_id}
                    </Link>
                    <span className="block">{one.said}</span>
                    {one.note && <span className="quiet small block wrap-anywhere">“{one.note}”</span>}
                  </span>
                  <span className={`small w-[190px] text-right ${instead ? 'loss' : 'quiet'}`}>
                    {own?.locked
                      ? 'of a locked query'
                      : !known
                        ? 'measuring …'
                        : instead
                          ? `broken: ${instead}`
                          : 'holds'}
                  </span>
                  <button
                    type="button"
                    className="link small"
                    disabled={busy}
                    onClick={() => act(() => expectNoMore(collection.name, set.name, one.id))}
                  >
                    end
                  </button>
                </li>
              )
            })}
          </ul>
        )}
      </section>
      <aside aria-label="New expectation" className="line-l min-h-0 overflow-y-auto px-4 py-3">
        <form
          onSubmit={async (event) => {
            event.preventDefault()
            if (!chosen) return
            const wanted = {
              query_id: chosen.query_id,
              kind,
              record_key: kind === 'among_first' || kind === 'never' ? record : null,
              number: kind === 'among_first' || kind === 'more_than' ? number : null,
              note,
            }
            await act(async () => {
              await expectThat(collection.name, set.name, wanted)
              // At once: what is written while the rest comes in must stay.
              setRecord('')
              setNote('')
            })
          }}
        >
          <h2 className="heading quiet pb-2">A new expectation</h2>
          <label className="block pb-2">
            <span className="quiet small block">Query of the set</span>
            <input
              ref={first}
              aria-label="Query of the expectation"
              className={input}
              required
              list="set-queries"
              value={query}
              onChange={(event) => setQuery(event.target.value)}
            />
            <datalist id="set-queries">
              {(queries.data ?? []).map((one) => (
                <option key={one.query_id} value={one.query} />
              ))}
            </datalist>
            {query !== '' && !chosen && (
              <span className="loss small">The set has no such query; add it under Queries.</span>
            )}
          </label>
          <label className="block pb-2">
            <span className="quiet small block">What is expected</span>
            <select
              aria-label="What is expected"
              className="boxed w-full bg-transparent"
              value={kind}
              onChange={(event) => setKind(event.target.value as Kind)}
            >
              {Object.entries(KINDS).map(([value, name]) => (
                <option key={value} value={value}>
                  {name}
                </option>
              ))}
            </select>
          </label>
          {(kind === 'among_first' || kind === 'more_than') && (
            <label className="block pb-2">
              <span className="quiet small block">{kind === 'among_first' ? 'Among the first' : 'More than'}</span>
              <input
                aria-label="Number"
                type="number"
                min={kind === 'among_first' ? 1 : 0}
                className={input}
                value={number}
                onChange={(event) => setNumber(Number(event.target.value))}
              />
            </label>
          )}
          {(kind === 'among_first' || kind === 'never') && (
            <label className="block pb-2">
              <span className="quiet small block">Key of the record</span>
              <input
                aria-label="Key of the record"
                required
                className={`${input} font-mono`}
                value={record}
                onChange={(event) => setRecord(event.target.value)}
              />
            </label>
          )}
          <label className="block pb-3">
            <span className="quiet small block">Why, in somebody’s words</span>
            <input
              aria-label="Note"
              maxLength={10_000}
              className={input}
              value={note}
              onChange={(event) => setNote(event.target.value)}
            />
          </label>
          <button type="submit" className="btn btn-sm btn-primary" disabled={busy || !chosen}>
            Expect it
          </button>
        </form>
      </aside>
    </div>
  )
}

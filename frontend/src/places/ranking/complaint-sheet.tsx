// A complaint becomes a judged query: this query, that record, these words. One key from where it is seen.
import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link } from 'react-router'
import { complain } from '../../api/judging'
import { judgedSet, type Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { carried, useAddress } from '../../shell/address'
import { complaintRequest, WRONGS, type Wrong } from '../../thinking/complaint'
import type { FilterPart } from '../../thinking/ranker-parts'
import { useDoing } from '../../shell/use-doing'

export function ComplaintSheet(props: {
  collection: Collection
  set: string | null
  query: string
  record: string
  filters: FilterPart[]
  onClose: () => void
}) {
  const { collection, set, onClose } = props
  const { params } = useAddress()
  const { busy, problem, act } = useDoing('judging', collection.name)
  const [wrong, setWrong] = useState<Wrong>('missing')
  const [record, setRecord] = useState(props.record)
  const [need, setNeed] = useState('')
  const [words, setWords] = useState('')
  const [number, setNumber] = useState(3)
  const [done, setDone] = useState<string | null>(null)
  const judged = useQuery({ ...judgedSet(collection.name, set ?? ''), enabled: set !== null })
  const isThere = judged.data?.queries.some((one) => one.query === props.query) ?? false
  useEffect(() => {
    const close = (event: KeyboardEvent) => event.key === 'Escape' && onClose()
    window.addEventListener('keydown', close)
    return () => window.removeEventListener('keydown', close)
  }, [onClose])
  const input = 'input input-sm w-full border-base-300 bg-transparent'
  return (
    <div className="fixed inset-0 z-20 grid place-items-center bg-base-content/25" onClick={onClose}>
      <div
        role="dialog"
        aria-label="A complaint"
        className="w-[560px] border border-base-300 bg-base-100 p-6"
        onClick={(event) => event.stopPropagation()}
      >
        {set === null ? (
          <>
            <p className="pb-3">A complaint becomes a judged query, and there is no judged set yet.</p>
            <Link className="btn btn-sm" to={`/${collection.name}/judging`}>
              Make one
            </Link>
          </>
        ) : done !== null ? (
          <div role="status">
            <p className="pb-3">
              Kept as {done} of {set}. Every measurement looks at it from now on.
            </p>
            <div className="flex gap-2">
              <button type="button" className="btn btn-sm btn-primary" autoFocus onClick={onClose}>
                Back to the list
              </button>
              <Link
                className="btn btn-sm btn-ghost"
                to={`/${collection.name}/judging${carried(params, { query: done })}`}
              >
                Look at the query
              </Link>
            </div>
          </div>
        ) : (
          <form
            onSubmit={async (event) => {
              event.preventDefault()
              const kept = await act(() =>
                complain(
                  collection.name,
                  set,
                  complaintRequest({ query: props.query, need, words, wrong, record, number, filters: props.filters }),
                ),
              )
              if (kept) setDone(kept.query_id)
            }}
          >
            <h2 className="text-lg font-semibold wrap-anywhere">“{props.query}”</h2>
            <p className="quiet small pb-3">
              {isThere
                ? `is a query of ${set} already; what is wrong is added to it as a grade and an expectation`
                : `becomes a query of ${set}, with what is wrong as a grade and an expectation`}
            </p>
            <fieldset className="pb-2">
              {Object.entries(WRONGS).map(([value, said]) => (
                <label key={value} className="flex items-center gap-2 py-[3px]">
                  <input
                    type="radio"
                    name="wrong"
                    autoFocus={value === wrong}
                    checked={wrong === value}
                    onChange={() => setWrong(value as Wrong)}
                  />
                  {said}
                </label>
              ))}
            </fieldset>
            {wrong !== 'nothing' && (
              <div className="grid grid-cols-[minmax(0,1fr)_130px] gap-3 pb-2">
                <label className="block">
                  <span className="quiet small block">Key of the record</span>
                  <input
                    aria-label="Record of the complaint"
                    required
                    className={`${input} font-mono`}
                    value={record}
                    onChange={(event) => setRecord(event.target.value)}
                  />
                </label>
                {wrong === 'missing' && (
                  <label className="block">
                    <span className="quiet small block">among the first</span>
                    <input
                      aria-label="Among the first"
                      type="number"
                      min={1}
                      max={1000}
                      className={input}
                      value={number}
                      onChange={(event) => setNumber(Number(event.target.value))}
                    />
                  </label>
                )}
              </div>
            )}
            <label className="block pb-2">
              <span className="quiet small block">What the visitor wanted</span>
              <input
                aria-label="Need"
                maxLength={10_000}
                className={input}
                value={need}
                onChange={(event) => setNeed(event.target.value)}
              />
            </label>
            <label className="block pb-4">
              <span className="quiet small block">The complaint, in whose words it came</span>
              <input
                aria-label="Complaint"
                maxLength={10_000}
                className={input}
                value={words}
                onChange={(event) => setWords(event.target.value)}
              />
            </label>
            <div className="flex gap-2">
              <button type="submit" className="btn btn-sm btn-primary" disabled={busy || props.query.trim() === ''}>
                Keep it
              </button>
              <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
                Never mind
              </button>
            </div>
            {problem && <ProblemNote error={problem} />}
          </form>
        )}
      </div>
    </div>
  )
}

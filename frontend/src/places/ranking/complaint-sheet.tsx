// A complaint becomes a judged query: this query, that record, these words. One key from where it is seen.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { complain } from '../../api/judging'
import { judgedSet, type Collection } from '../../api/queries'
import { Dialog } from '../../parts/dialog'
import { RecordBox } from '../../parts/record-box'
import { ProblemNote } from '../../parts/notes'
import { carried, useAddress } from '../../shell/address'
import { complaintRequest, WRONGS, type Wrong } from '../../thinking/complaint'
import type { FilterPart } from '../../thinking/ranker-parts'
import { letGo, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { entriesOf } from '../../thinking/entries'
import { isSameQuery } from '../../thinking/judging'
import { Changing } from '../../shell/changing'

type Complaint = { query: string; record: string; filters: FilterPart[] }

export function ComplaintSheet(props: Complaint & { collection: Collection; set: string | null; onClose: () => void }) {
  const { collection, set, onClose } = props
  const { params } = useAddress()
  const [done, setDone] = useState<string | null>(null)
  return (
    <Dialog label="A complaint" className="w-[560px] p-6" onClose={onClose}>
      {set === null ? (
        <>
          <p className="pb-3">A complaint becomes a judged query, and there is no judged set yet.</p>
          <Link className="btn btn-sm" to={`/${collection.name}/judging`}>
            Make one
          </Link>
        </>
      ) : done !== null ? (
        <Kept done={done} set={set} onClose={onClose} collection={collection} params={params} />
      ) : (
        <ComplaintForm about={props} collection={collection} set={set} onKept={setDone} onClose={onClose} />
      )}
    </Dialog>
  )
}

const INPUT = 'input input-sm w-full border-base-300 bg-transparent'

function ComplaintForm(props: {
  about: Complaint
  collection: Collection
  set: string
  onKept: (queryId: string) => void
  onClose: () => void
}) {
  const { collection, set } = props
  const { query, filters } = props.about
  const { busy, problem, act } = useDoing('judging', collection.name)
  const held = `complaint ${collection.name}/${set}/${query}/${props.about.record}/`
  const [wrong, setWrong] = useHeld<Wrong>(`${held}wrong`, 'missing')
  const [record, setRecord] = useHeld(`${held}record`, props.about.record)
  const [need, setNeed] = useHeld(`${held}need`, '')
  const [words, setWords] = useHeld(`${held}words`, '')
  const [number, setNumber] = useHeld(`${held}number`, 3)
  const judged = useQuery(judgedSet(collection.name, set))
  const isThere = judged.data?.queries.some((one) => isSameQuery(one.query, query)) ?? false
  const keep = async () => {
    const request = complaintRequest({ query, need, words, wrong, record, number, filters })
    const kept = await act(() => complain(collection.name, set, request))
    if (!kept) return
    letGo(held)
    props.onKept(kept.query_id)
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        void keep()
      }}
    >
      <h2 className="text-lg font-semibold wrap-anywhere">“{query}”</h2>
      <p className="quiet small pb-3">
        {isThere
          ? `is a query of ${set} already; what is wrong is added to it as a grade and an expectation`
          : `becomes a query of ${set}, with what is wrong as a grade and an expectation`}
      </p>
      <WhatIsWrong wrong={wrong} onWrong={setWrong} />
      {wrong !== 'nothing' && (
        <WhichRecord
          collection={collection.name}
          record={record}
          onRecord={setRecord}
          wrong={wrong}
          number={number}
          onNumber={setNumber}
        />
      )}
      <Words name="What the visitor wanted" label="Need" value={need} onChange={setNeed} />
      <Words name="The complaint, in whose words it came" label="Complaint" value={words} onChange={setWords} />
      <div className="flex gap-2 pt-2">
        <Changing>
          <button type="submit" className="btn btn-sm btn-primary" disabled={busy || query.trim() === ''}>
            Keep it
          </button>
        </Changing>
        <button type="button" className="btn btn-sm btn-ghost" onClick={props.onClose}>
          Never mind
        </button>
      </div>
      {problem && <ProblemNote error={problem} />}
    </form>
  )
}

function Words(props: { name: string; label: string; value: string; onChange: (words: string) => void }) {
  return (
    <label className="block pb-2">
      <span className="quiet small block">{props.name}</span>
      <input
        dir="auto"
        aria-label={props.label}
        maxLength={10_000}
        className={INPUT}
        value={props.value}
        onChange={(event) => props.onChange(event.target.value)}
      />
    </label>
  )
}

function Kept({
  done,
  set,
  onClose,
  collection,
  params,
}: {
  done: string
  set: string | null
  onClose: () => void
  collection: Collection
  params: URLSearchParams
}) {
  return (
    <div role="status">
      <p className="pb-3">
        Kept as {done} of {set}. Every measurement looks at it from now on.
      </p>
      <div className="flex gap-2">
        <button type="button" className="btn btn-sm btn-primary" autoFocus onClick={onClose}>
          Back to the list
        </button>
        <Link className="btn btn-sm btn-ghost" to={`/${collection.name}/judging${carried(params, { query: done })}`}>
          Look at the query
        </Link>
      </div>
    </div>
  )
}

function WhatIsWrong({ wrong, onWrong }: { wrong: Wrong; onWrong: (to: Wrong) => void }) {
  return (
    <fieldset className="pb-2">
      {entriesOf(WRONGS).map(([value, said]) => (
        <label key={value} className="flex items-center gap-2 py-[3px]">
          <input
            type="radio"
            name="wrong"
            autoFocus={value === wrong}
            checked={wrong === value}
            onChange={() => onWrong(value)}
          />
          {said}
        </label>
      ))}
    </fieldset>
  )
}

function WhichRecord({
  collection,
  record,
  onRecord,
  wrong,
  number,
  onNumber,
}: {
  collection: string
  record: string
  onRecord: (to: string) => void
  wrong: Wrong
  number: number
  onNumber: (to: number) => void
}) {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_130px] gap-3 pb-2">
      <div>
        <span className="quiet small block">Record, by its key or title</span>
        <RecordBox
          collection={collection}
          label="Record of the complaint"
          required
          className={`${INPUT} font-mono`}
          value={record}
          onType={onRecord}
          onChoose={onRecord}
        />
      </div>
      {wrong === 'missing' && (
        <label className="block">
          <span className="quiet small block">among the first</span>
          <input
            aria-label="Among the first"
            type="number"
            min={1}
            max={1000}
            className={INPUT}
            value={number}
            onChange={(event) => onNumber(Number(event.target.value))}
          />
        </label>
      )}
    </div>
  )
}

// A new expectation: of which query, what, and why.
import { useRef } from 'react'
import { RecordBox } from '../../parts/record-box'
import { useHeld } from '../../parts/use-held'
import { expectThat, type ListedQuery } from '../../api/judging'
import { typing, useKeys } from '../../shell/keys'
import type { useDoing } from '../../shell/use-doing'
import type { SetProps } from './set-props'
import { entriesOf } from '../../thinking/entries'
import { Select } from '../../parts/select'
import { Changing } from '../../shell/changing'

const KINDS = {
  among_first: 'this record among the first',
  never: 'never this record',
  more_than: 'more records than',
  nothing: 'nothing at all',
} as const
type Kind = keyof typeof KINDS

const input = 'input input-sm w-full border-base-300 bg-transparent'

type Props = SetProps & { queries: ListedQuery[]; doing: ReturnType<typeof useDoing> }

export function ExpectationForm({ collection, set, queries, doing }: Props) {
  const { busy, act } = doing
  const held = `expectation ${collection.name}/${set.name}/`
  const [query, setQuery] = useHeld(`${held}query`, '')
  const [kind, setKind] = useHeld<Kind>(`${held}kind`, 'among_first')
  const [record, setRecord] = useHeld(`${held}record`, '')
  const [number, setNumber] = useHeld(`${held}number`, 3)
  const [note, setNote] = useHeld(`${held}note`, '')
  const chosen = queries.find((one) => one.query === query || one.query_id === query)
  const expectIt = () => {
    if (!chosen) return
    const wanted = {
      query_id: chosen.query_id,
      kind,
      record_key: kind === 'among_first' || kind === 'never' ? record : null,
      number: kind === 'among_first' || kind === 'more_than' ? number : null,
      note,
    }
    void act(() => expectThat(collection.name, set.name, wanted), {
      // At once: what is written while the rest comes in must stay.
      then: () => {
        setRecord('')
        setNote('')
      },
    })
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        expectIt()
      }}
    >
      <Changing>
        <h2 className="heading quiet pb-2">A new expectation</h2>
        <QueryOfSet query={query} onQuery={setQuery} queries={queries} known={chosen !== undefined} />
        <KindChoice kind={kind} onKind={setKind} />
        {(kind === 'among_first' || kind === 'more_than') && (
          <NumberBox kind={kind} number={number} onNumber={setNumber} />
        )}
        {(kind === 'among_first' || kind === 'never') && (
          <KeyBox collection={collection.name} record={record} onRecord={setRecord} />
        )}
        <NoteBox note={note} onNote={setNote} />
        <button type="submit" className="btn btn-sm btn-primary" disabled={busy || !chosen}>
          Expect it
        </button>
      </Changing>
    </form>
  )
}

function KindChoice({ kind, onKind }: { kind: Kind; onKind: (to: Kind) => void }) {
  return (
    <label className="block pb-2">
      <span className="quiet small block">What is expected</span>
      <Select
        label="What is expected"
        className="boxed w-full bg-transparent"
        value={kind}
        choices={entriesOf(KINDS)}
        onChoose={onKind}
      />
    </label>
  )
}

function NumberBox({ kind, number, onNumber }: { kind: Kind; number: number; onNumber: (to: number) => void }) {
  return (
    <label className="block pb-2">
      <span className="quiet small block">{kind === 'among_first' ? 'Among the first' : 'More than'}</span>
      <input
        aria-label="Number"
        type="number"
        min={kind === 'among_first' ? 1 : 0}
        className={input}
        value={number}
        onChange={(event) => onNumber(Number(event.target.value))}
      />
    </label>
  )
}

function KeyBox({
  collection,
  record,
  onRecord,
}: {
  collection: string
  record: string
  onRecord: (to: string) => void
}) {
  return (
    <label className="block pb-2">
      <span className="quiet small block">The record, by its key or title</span>
      <RecordBox
        collection={collection}
        label="Key of the record"
        required
        className={`${input} font-mono`}
        value={record}
        onType={onRecord}
        onChoose={onRecord}
      />
    </label>
  )
}

function NoteBox({ note, onNote }: { note: string; onNote: (to: string) => void }) {
  return (
    <label className="block pb-3">
      <span className="quiet small block">Why, in somebody’s words</span>
      <input
        dir="auto"
        aria-label="Note"
        maxLength={10_000}
        className={input}
        value={note}
        onChange={(event) => onNote(event.target.value)}
      />
    </label>
  )
}

function QueryOfSet(props: {
  query: string
  onQuery: (query: string) => void
  queries: ListedQuery[]
  known: boolean
}) {
  const first = useRef<HTMLInputElement>(null)
  useKeys((event: KeyboardEvent) => {
    if (event.key !== 'n' || typing(event) || event.ctrlKey || event.metaKey) return
    event.preventDefault()
    first.current?.focus()
  })
  return (
    <label className="block pb-2">
      <span className="quiet small block">Query of the set</span>
      <input
        dir="auto"
        ref={first}
        aria-label="Query of the expectation"
        className={input}
        required
        list="set-queries"
        value={props.query}
        onChange={(event) => props.onQuery(event.target.value)}
      />
      <datalist id="set-queries">
        {props.queries.map((one) => (
          <option key={one.query_id} value={one.query} />
        ))}
      </datalist>
      {props.query !== '' && !props.known && (
        <span className="loss small">The set has no such query; add it under Queries.</span>
      )}
    </label>
  )
}

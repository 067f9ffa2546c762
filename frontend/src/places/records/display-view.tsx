// How a record is shown in every list of results, designed on real records.
import { useQuery, type UseQueryResult } from '@tanstack/react-query'
import { useMemo } from 'react'
import type { Collection } from '../../api/queries'
import { putDisplay, records, type Display, type Page } from '../../api/records'
import { Kept, Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { RecordFace } from '../../parts/record-face'
import { useAddress } from '../../shell/address'
import { LENGTHS, lengthOf, moved, sampleOffsets, withLength, type Length } from '../../thinking/display'
import { shownFields, type Shown } from '../../thinking/records'
import { letGo, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { Select } from '../../parts/select'
import { Changing } from '../../shell/changing'

const NAMES: Record<Length, string> = {
  hidden: 'not shown',
  line: 'in the line of facts',
  short: 'shortened around matches',
  whole: 'whole',
}

// Shown ones first and in their order, then those that are not shown.
function namesInOrder(collection: Collection, display: Display): string[] {
  const inOrder = (display.fields ?? []).map((one) => one.field)
  return [...inOrder, ...collection.fields.map((field) => field.name).filter((name) => !inOrder.includes(name))]
}

export function DisplayView({ collection }: { collection: Collection }) {
  const { busy, problem, act } = useDoing('collections')
  const { params, change } = useAddress()
  const held = `display ${collection.name}/`
  const [display, setDisplay] = useHeld<Display>(`${held}display`, collection.display)
  const first = Number(params.get('first')) || 0
  const page = useQuery(
    records(collection.name, { words: '', field: null, sort: null, descending: false, first, count: 8 }),
  )
  const keep = async () => {
    if (await act(() => putDisplay(collection.name, display))) letGo(held)
  }
  const changed = JSON.stringify(display) !== JSON.stringify(collection.display)
  const shown = useMemo(() => shownFields({ ...collection, display }), [collection, display])
  const names = useMemo(() => namesInOrder(collection, display), [collection, display])
  const choose = (role: 'title' | 'picture') => (
    <label className="grid grid-cols-[128px_minmax(0,1fr)] items-baseline gap-2 px-4 py-1">
      <span className="quiet small">{role === 'title' ? 'Title' : 'Picture'}</span>
      <select
        aria-label={role === 'title' ? 'Title' : 'Picture'}
        className="boxed w-full bg-transparent"
        value={display[role] ?? ''}
        onChange={(event) => setDisplay({ ...display, [role]: event.target.value || null })}
      >
        <option value="">{role === 'title' ? 'the key' : 'none'}</option>
        {collection.fields.map((field) => (
          <option key={field.name}>{field.name}</option>
        ))}
      </select>
    </label>
  )
  return (
    <div className="panes grid h-full grid-cols-[440px_minmax(0,1fr)]">
      <section aria-label="What is shown" className="line-r min-h-0 overflow-y-auto">
        <KeepBar
          changed={changed}
          onDisplay={setDisplay}
          collection={collection}
          busy={busy}
          onKeep={() => void keep()}
        />
        {problem && <ProblemNote error={problem} />}
        <div className="line-b py-2">
          {choose('title')}
          {choose('picture')}
        </div>
        <ul>
          {names.map((name, i) => {
            const length = lengthOf(display, name)
            const isShown = length !== 'hidden'
            const last = (display.fields ?? []).length - 1
            return (
              <li key={name} className="line-b grid grid-cols-[128px_minmax(0,1fr)_56px] items-center gap-2 px-4 py-1">
                <span className={`truncate ${isShown ? '' : 'quiet'}`} title={name}>
                  {name}
                </span>
                <HowShown name={name} isShown={isShown} length={length} onDisplay={setDisplay} display={display} />
                <OrderButtons
                  isShown={isShown}
                  name={name}
                  i={i}
                  onDisplay={setDisplay}
                  display={display}
                  last={last}
                />
              </li>
            )
          })}
        </ul>
      </section>
      <section aria-label="Records as they will be listed" className="min-h-0 overflow-y-auto">
        <PageBar collection={collection} first={first} change={change} />
        <Listed collection={collection} page={page} shown={shown} />
      </section>
    </div>
  )
}

function KeepBar({
  changed,
  onDisplay,
  collection,
  busy,
  onKeep,
}: {
  changed: boolean
  onDisplay: (to: Display) => void
  collection: Collection
  busy: boolean
  onKeep: () => void
}) {
  return (
    <div className="line-b flex items-center gap-3 px-4 py-2">
      <span className="quiet small flex-1">Holds in Ranking and wherever else records are listed.</span>
      {changed && (
        <button
          type="button"
          className="btn btn-ghost btn-sm font-normal"
          onClick={() => onDisplay(collection.display)}
        >
          Take back
        </button>
      )}
      <Changing>
        <button type="button" className="btn btn-primary btn-sm" disabled={!changed || busy} onClick={onKeep}>
          Keep
        </button>
      </Changing>
    </div>
  )
}

function HowShown({
  name,
  isShown,
  length,
  onDisplay,
  display,
}: {
  name: string
  isShown: boolean
  length: Length
  onDisplay: (to: Display) => void
  display: Display
}) {
  return (
    <Select
      label={`How ${name} is shown`}
      className={`boxed w-full bg-transparent ${isShown ? '' : 'quiet'}`}
      value={length}
      choices={LENGTHS.map((one) => [one, NAMES[one]])}
      onChoose={(chosen) => onDisplay(withLength(display, name, chosen))}
    />
  )
}

function OrderButtons({
  isShown,
  name,
  i,
  onDisplay,
  display,
  last,
}: {
  isShown: boolean
  name: string
  i: number
  onDisplay: (to: Display) => void
  display: Display
  last: number
}) {
  return (
    <span className="flex justify-end">
      {isShown && (
        <>
          <button
            type="button"
            aria-label={`${name} earlier`}
            className="btn btn-ghost btn-xs px-1.5"
            disabled={i === 0}
            onClick={() => onDisplay(moved(display, i, -1))}
          >
            ↑
          </button>
          <button
            type="button"
            aria-label={`${name} later`}
            className="btn btn-ghost btn-xs px-1.5"
            disabled={i >= last}
            onClick={() => onDisplay(moved(display, i, 1))}
          >
            ↓
          </button>
        </>
      )}
    </span>
  )
}

function PageBar({
  collection,
  first,
  change,
}: {
  collection: Collection
  first: number
  change: ReturnType<typeof useAddress>['change']
}) {
  return (
    <div className="line-b flex flex-wrap items-center gap-2 px-4 py-2">
      <span className="quiet small flex-[1_1_200px]">Records of the collection as they will be listed</span>
      {sampleOffsets(collection.records, 8).map((offset, i) => (
        <button
          key={offset}
          type="button"
          className={`btn btn-ghost btn-xs ${offset === first ? 'font-semibold' : 'font-normal'}`}
          onClick={() => change({ first: String(offset) })}
        >
          {['from the beginning', 'the middle', 'the end'][i]}
        </button>
      ))}
    </div>
  )
}

function Listed(props: { collection: Collection; page: UseQueryResult<Page>; shown: Shown }) {
  const { page } = props
  if (!page.data) return <Unanswered asked={[page]} what="records" />
  return (
    <Kept asked={[page]} what="records">
      <ol>
        {page.data.records.map((one) => (
          <li key={one.key} className="line-b px-4 py-2">
            <RecordFace
              collection={props.collection.name}
              shown={props.shown}
              recordKey={one.key}
              values={one.field_values}
            />
          </li>
        ))}
      </ol>
    </Kept>
  )
}

// Records as a table: narrowed by a text, sorted by any field, one of them opened beside it.
import { useQuery } from '@tanstack/react-query'
import { useHeld } from '../../parts/use-held'
import type { Schemas } from '../../api/client'
import type { Collection } from '../../api/queries'
import { records } from '../../api/records'
import { Kept, Unanswered } from '../../parts/answered'
import { Empty } from '../../parts/notes'
import { TakeTable } from '../../parts/take-table'
import { useAddress } from '../../shell/address'
import { useTyped } from '../../shell/use-typed'
import { typing, useKeys } from '../../shell/keys'
import { countText } from '../../thinking/figures'
import { shownFields, titleOf, valueText } from '../../thinking/records'
import { NewRecord } from './new-record'
import { RecordPanel } from './record-panel'
import { Changing } from '../../shell/changing'

const PAGE = 100
const LIVE_UP_TO = 20_000

export function BrowseView({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const words = params.get('words') ?? ''
  const within = params.get('in')
  const sort = params.get('sort')
  const descending = params.get('down') !== null
  const first = Math.max(0, Number(params.get('first')) || 0)
  const chosen = params.get('key')
  const held = `adding ${collection.name}/`
  const [adding, setAdding] = useHeld(`${held}adding`, false)
  const page = useQuery(records(collection.name, { words, field: within, sort, descending, first, count: PAGE }))
  const keys = page.data?.records.map((record) => record.key) ?? []
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
    const at = keys.indexOf(chosen ?? '')
    if (event.key === 'j') change({ key: keys[Math.min(keys.length - 1, at + 1)] ?? null })
    if (event.key === 'k') change({ key: keys[Math.max(0, at - 1)] ?? null })
    if (event.key === 'Escape') change({ key: null })
  })
  return (
    <div className={`panes grid h-full ${chosen || adding ? 'grid-cols-[minmax(0,1fr)_480px]' : ''}`}>
      <section aria-label="Records" className="flex min-h-0 flex-col">
        <NarrowBar
          collection={collection}
          found={page.data?.found ?? null}
          adding={adding}
          onAdding={() => {
            setAdding(!adding)
            change({ key: null })
          }}
        />
        <div className="long-table min-h-0 flex-1 overflow-auto">
          {!page.data && <Unanswered asked={[page]} what="the records" />}
          {page.data?.found === 0 &&
            (collection.records === 0 ? (
              <Empty title="This collection has no records yet">Import a file: Import and export (4).</Empty>
            ) : (
              <Empty title={`No record holds “${words}”`}>
                <button type="button" className="link" onClick={() => change({ words: null, in: null })}>
                  Show all
                </button>
              </Empty>
            ))}
          {page.data && page.data.found > 0 && (
            <Kept asked={[page]} what="the records">
              <Rows
                page={page.data.records}
                collection={collection}
                columns={chosen || adding ? 2 : 4}
                chosen={chosen}
                onChoose={(key) => {
                  setAdding(false)
                  change({ key })
                }}
              />
            </Kept>
          )}
        </div>
        {page.data && page.data.found > PAGE && <Pager first={first} found={page.data.found} />}
      </section>
      {chosen && !adding && <RecordPanel key={chosen} collection={collection} recordKey={chosen} />}
      {adding && (
        <NewRecord
          collection={collection}
          onAdded={(key) => {
            setAdding(false)
            change({ key })
          }}
        />
      )}
    </div>
  )
}

// What the list is narrowed to, and the way to add to it.
function NarrowBar(props: { collection: Collection; found: number | null; adding: boolean; onAdding: () => void }) {
  const { collection, found, adding } = props
  const { params, change } = useAddress()
  const words = params.get('words') ?? ''
  // A large collection is looked through when asked to, and not at every key press.
  const live = collection.records <= LIVE_UP_TO
  const [typed, setTyped] = useTyped(words)
  const narrow = (text: string) => change({ words: text || null, first: null })
  return (
    <div className="line-b flex flex-wrap items-center gap-x-3 gap-y-1 px-4 py-2">
      <input
        dir="auto"
        aria-label="Text that records hold"
        placeholder={live ? 'Only records that hold this text' : 'Only records that hold this text, then Enter'}
        className="input input-sm w-[280px] border-base-300 bg-transparent"
        value={live ? words : typed}
        maxLength={500}
        onChange={(event) => (live ? narrow : setTyped)(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && narrow(event.currentTarget.value)}
        onBlur={(event) => live || narrow(event.currentTarget.value)}
      />
      <select
        aria-label="In which field"
        className="boxed w-auto bg-transparent"
        value={params.get('in') ?? ''}
        onChange={(event) => change({ in: event.target.value || null, first: null })}
      >
        <option value="">in any field</option>
        {collection.fields.map((field) => (
          <option key={field.name} value={field.name}>
            in {field.name}
          </option>
        ))}
      </select>
      <span className="quiet small flex-1" aria-live="polite">
        {found !== null && `${countText(found)} records`}
      </span>
      {(found ?? 0) > 0 && <TakeTable what="the records shown" file={`${collection.name}-records`} />}
      <Changing>
        <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={props.onAdding}>
          {adding ? 'Cancel' : 'Add a record'}
        </button>
      </Changing>
    </div>
  )
}

function Rows(props: {
  page: Schemas['Record'][]
  collection: Collection
  columns: number
  chosen: string | null
  onChoose: (key: string | null) => void
}) {
  const { chosen } = props
  const { params, change } = useAddress()
  const sort = params.get('sort')
  const descending = params.get('down') !== null
  const shown = shownFields(props.collection)
  const columns = shown.line.slice(0, props.columns)
  const sortBy = (field: string | null) =>
    change(sort === field ? { down: descending ? null : '1', first: null } : { sort: field, down: null, first: null })
  return (
    <table className="w-full min-w-[480px] table-fixed border-collapse text-left">
      <thead>
        <tr className="line-b quiet small sticky top-0 z-10 bg-base-100">
          <Head name="key" width="w-[120px]" here={sort === null} descending={descending} onSort={() => sortBy(null)} />
          {shown.title !== null && (
            <Head
              name={shown.title}
              here={sort === shown.title}
              descending={descending}
              onSort={() => sortBy(shown.title)}
            />
          )}
          {columns.map((name) => (
            <Head
              key={name}
              name={name}
              width="w-[150px]"
              here={sort === name}
              descending={descending}
              onSort={() => sortBy(name)}
            />
          ))}
        </tr>
      </thead>
      <tbody>
        {props.page.map((record) => (
          <tr
            key={record.key}
            aria-current={record.key === chosen ? 'true' : undefined}
            className={`line-b cursor-pointer hover:bg-base-200 ${record.key === chosen ? 'bg-base-200' : ''}`}
            onClick={() => props.onChoose(record.key === chosen ? null : record.key)}
          >
            <td className="truncate py-1 pr-2 pl-4 font-mono text-[13px]" title={record.key}>
              <button type="button" className="block max-w-full min-h-6 cursor-pointer truncate text-left">
                {record.key}
              </button>
            </td>
            {shown.title !== null && (
              <td dir="auto" className="truncate px-2">
                {titleOf(shown, '', record.field_values)}
              </td>
            )}
            {columns.map((name) => (
              <td key={name} dir="auto" className="quiet truncate px-2">
                {valueText(record.field_values[name]).replaceAll('\n', ', ')}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Pager({ first, found }: { first: number; found: number }) {
  const { change } = useAddress()
  return (
    <div className="line-t flex flex-wrap items-center gap-x-3 gap-y-1 px-4 py-2">
      <button
        type="button"
        className="btn btn-ghost btn-xs"
        disabled={first === 0}
        onClick={() => change({ first: String(Math.max(0, first - PAGE)) })}
      >
        ← Before
      </button>
      <span className="quiet small">
        {countText(first + 1)} to {countText(Math.min(first + PAGE, found))} of {countText(found)}
      </span>
      <button
        type="button"
        className="btn btn-ghost btn-xs"
        disabled={first + PAGE >= found}
        onClick={() => change({ first: String(first + PAGE) })}
      >
        Next →
      </button>
    </div>
  )
}

function Head(props: { name: string; width?: string; here: boolean; descending: boolean; onSort: () => void }) {
  return (
    <th
      className={`${props.width ?? ''} px-2 py-2 font-normal first:pl-4`}
      aria-sort={props.here ? (props.descending ? 'descending' : 'ascending') : undefined}
    >
      <button
        type="button"
        className={`max-w-full cursor-pointer truncate ${props.here ? 'font-semibold' : ''}`}
        onClick={props.onSort}
      >
        {props.here ? (props.descending ? '↓ ' : '↑ ') : ''}
        {props.name}
      </button>
    </th>
  )
}

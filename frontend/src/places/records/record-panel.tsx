// One record: its fields, what it was before, and what each reading made of it, token by token.
import { useQuery } from '@tanstack/react-query'
import { record, type Collection } from '../../api/queries'
import { deleteRecords, earlier, putRecords, readings, restoreRecord } from '../../api/records'
import { CopyButton } from '../../parts/copy-button'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { changedFields, whenText } from '../../thinking/revisions'
import { hasPages, placesText, shownFields, titleOf, valueText } from '../../thinking/records'
import { PageViewer } from '../../scans/page-viewer'
import { RecordEditor } from './record-editor'
import { letGo, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { Kept, Unanswered } from '../../parts/answered'
import { Changing } from '../../shell/changing'

const PARTS = ['Fields', 'Page', 'Readings', 'Revisions'] as const
type Part = (typeof PARTS)[number]

export function RecordPanel({ collection, recordKey }: { collection: Collection; recordKey: string }) {
  const { params, change } = useAddress()
  const { busy, problem, act } = useDoing('everything')
  const held = `record ${collection.name}/${recordKey}/`
  const [editing, setEditing] = useHeld(`${held}editing`, false)
  // As it was when it was begun to be edited: what somebody else makes of it meanwhile is not written over.
  const [seen, setSeen] = useHeld<number | null>(`${held}seen`, null)
  const parts = PARTS.filter((one) => one !== 'Page' || hasPages(collection))
  const part = parts.find((one) => one === params.get('part')) ?? 'Fields'
  const kept = useQuery(record(collection.name, recordKey))
  const put = async (values: Record<string, unknown>) => {
    if (await act(() => putRecords(collection.name, [values], seen === null ? {} : { [recordKey]: seen }))) letGo(held)
  }
  const remove = () =>
    act(() => deleteRecords(collection.name, [recordKey]), { then: () => change({ key: null }), gone: recordKey })
  return (
    <aside aria-label={`Record ${recordKey}`} className="over line-l flex min-h-0 flex-col">
      <PanelHead
        collection={collection}
        recordKey={recordKey}
        values={kept.data?.field_values ?? null}
        part={part}
        parts={parts}
        editing={editing}
        onEdit={(to) => {
          setEditing(to)
          setSeen(kept.data?.revision ?? null)
        }}
        onDelete={remove}
      />
      <div className="min-h-0 flex-1 overflow-y-auto">
        {!kept.data && <Unanswered asked={[kept]} what="the record" />}
        {problem && <ProblemNote error={problem} />}
        {editing && kept.data ? (
          <RecordEditor
            of={`${collection.name}/${recordKey}`}
            text={JSON.stringify(kept.data.field_values, null, 2)}
            saves="Save"
            busy={busy}
            onSave={put}
            onCancel={() => letGo(held)}
          />
        ) : part === 'Fields' ? (
          kept.data && <Fields collection={collection} values={kept.data.field_values} />
        ) : part === 'Page' ? (
          <PageViewer collection={collection.name} recordKey={recordKey} />
        ) : part === 'Readings' ? (
          <Readings collection={collection} recordKey={recordKey} />
        ) : (
          kept.data && (
            <Revisions
              collection={collection}
              recordKey={recordKey}
              revision={kept.data.revision}
              values={kept.data.field_values}
            />
          )
        )}
      </div>
    </aside>
  )
}

function PanelHead(props: {
  collection: Collection
  recordKey: string
  values: Record<string, unknown> | null
  part: Part
  parts: readonly Part[]
  editing: boolean
  onEdit: (editing: boolean) => void
  onDelete: () => void
}) {
  const { recordKey, values, part, editing } = props
  const { change } = useAddress()
  return (
    <div className="line-b px-4 py-2">
      <div className="flex items-baseline gap-2">
        <b className="min-w-0 flex-1 truncate font-mono text-[14px] font-semibold">{recordKey}</b>
        <CopyButton what="Copy the record as JSON" text={() => JSON.stringify(values ?? {}, null, 2)} />
        <Changing>
          <button
            type="button"
            className="btn btn-ghost btn-xs font-normal"
            // Nobody edits what has not come yet: it would not be known which state of it they saw.
            disabled={values === null}
            onClick={() => props.onEdit(!editing)}
          >
            {editing ? 'Leave' : 'Edit'}
          </button>
          <button
            type="button"
            className="btn btn-ghost btn-xs font-normal"
            title="It can be restored: Deleted (6)"
            onClick={props.onDelete}
          >
            Delete
          </button>
        </Changing>
        <button type="button" className="btn btn-ghost btn-xs font-normal" onClick={() => change({ key: null })}>
          Close
        </button>
      </div>
      {values && (
        <p dir="auto" className="line-clamp-2 font-semibold wrap-anywhere">
          {titleOf(shownFields(props.collection), '', values)}
        </p>
      )}
      <Parts part={part} parts={props.parts} />
    </div>
  )
}

function Parts({ part, parts }: { part: Part; parts: readonly Part[] }) {
  const { change } = useAddress()
  return (
    <nav aria-label="Parts of the record" className="flex gap-3 pt-1">
      {parts.map((one) => (
        <button
          key={one}
          type="button"
          aria-current={one === part ? 'page' : undefined}
          className={`cursor-pointer ${one === part ? 'border-b-2 border-primary font-semibold' : 'quiet'}`}
          onClick={() => change({ part: one })}
        >
          {one}
        </button>
      ))}
    </nav>
  )
}

function Fields({ collection, values }: { collection: Collection; values: Record<string, unknown> }) {
  return (
    <dl>
      {collection.fields.map((field) => {
        const text = field.role === 'places' ? placesText(values[field.name]) : valueText(values[field.name])
        return (
          <div key={field.name} className="line-b grid grid-cols-[128px_minmax(0,1fr)] gap-2 px-4 py-1.5">
            <dt className="quiet small truncate pt-[2px]" title={field.name}>
              {field.name}
            </dt>
            <dd dir="auto" className={`whitespace-pre-line wrap-anywhere ${text === '' ? 'quiet' : ''}`}>
              {text === '' ? '–' : text}
            </dd>
          </div>
        )
      })}
    </dl>
  )
}

function Readings({ collection, recordKey }: { collection: Collection; recordKey: string }) {
  const made = useQuery(readings(collection.name, recordKey))
  if (!made.data) return <Unanswered asked={[made]} what="the readings" />
  if (made.data.ranker === null)
    return <p className="quiet px-4 py-3">The collection has no ranker yet, so nothing reads it.</p>
  return (
    <Kept asked={[made]} what="the readings">
      <p className="quiet small px-4 pt-2">As the readings of {made.data.ranker} see it.</p>
      {made.data.readings.map((reading, i) => (
        <section key={i} className="line-b px-4 py-2">
          <p>
            <b className="font-semibold">{reading.field}</b>{' '}
            <code className="quiet text-[12px] wrap-anywhere">{reading.chain}</code>
          </p>
          {reading.values.length === 0 && <p className="quiet small">no value</p>}
          {reading.values.map((value, v) => (
            <p
              key={v}
              aria-label={`Tokens of ${reading.field}`}
              className="flex flex-wrap gap-x-2 pt-1 font-mono text-[13px]"
            >
              {value.tokens.length === 0 && <span className="quiet">no token is left</span>}
              {value.tokens.map((token, t) => (
                <span
                  key={t}
                  title={`from “${Array.from(value.text).slice(token.start, token.end).join('')}”, position ${token.position}`}
                >
                  {token.text}
                </span>
              ))}
            </p>
          ))}
        </section>
      ))}
      {Object.entries(made.data.passages).map(([field, values]) =>
        values.map((value, v) => (
          <section key={`${field}${v}`} aria-label={`Passages of ${field}`} className="line-b px-4 py-2">
            <p className="pb-1">
              <b className="font-semibold">{field}</b>{' '}
              <span className="quiet small">
                in {value.stretches.length} {value.stretches.length === 1 ? 'passage' : 'passages'}
              </span>
            </p>
            {value.stretches.map(([start, end], i) => (
              <p key={i} className="small flex gap-2 py-[2px]">
                <span className="quiet figure w-[20px] shrink-0">{i + 1}</span>
                <span className="wrap-anywhere">{Array.from(value.text).slice(start, end).join('')}</span>
              </p>
            ))}
          </section>
        )),
      )}
    </Kept>
  )
}

function Revisions(props: {
  collection: Collection
  recordKey: string
  revision: number
  values: Record<string, unknown>
}) {
  const { collection, recordKey } = props
  const { busy, problem, act } = useDoing('everything')
  const states = useQuery(earlier(collection.name, recordKey))
  if (!states.data) return <Unanswered asked={[states]} what="what it was before" />
  return (
    <Kept asked={[states]} what="what it was before">
      <ol>
        <li className="line-b px-4 py-2">
          <b className="font-semibold">Now</b> <span className="quiet small">since revision {props.revision}</span>
        </li>
        {problem && <ProblemNote error={problem} />}
        {states.data.map((state, i) => {
          const after = i === 0 ? props.values : (states.data[i - 1]?.field_values ?? {})
          return (
            <li key={state.ended_revision} className="line-b px-4 py-2">
              <p className="flex items-baseline gap-2">
                <span className="min-w-0 flex-1">
                  revision {state.revision} to {state.ended_revision - 1}
                  <span className="quiet small">
                    {' '}
                    · {state.ended_by === 'deletion' ? 'deleted' : 'changed'} {whenText(state.ended_at)}
                    {state.by_person && ` by ${state.by_person}`}
                  </span>
                </span>
                <Changing>
                  <button
                    type="button"
                    className="btn btn-ghost btn-xs font-normal"
                    disabled={busy}
                    onClick={() => void act(() => restoreRecord(collection.name, recordKey, state.ended_revision))}
                  >
                    Make it so again
                  </button>
                </Changing>
              </p>
              {changedFields(state.field_values, after).map((field) => (
                <p key={field} className="small grid grid-cols-[112px_minmax(0,1fr)] gap-2">
                  <span className="quiet truncate">{field}</span>
                  <span dir="auto" className="line-clamp-3 wrap-anywhere">
                    {valueText(state.field_values[field]) || '–'}{' '}
                    <span className="quiet">→ {valueText(after[field]) || '–'}</span>
                  </span>
                </p>
              ))}
            </li>
          )
        })}
        {states.data.length === 0 && <li className="quiet px-4 py-3">It has never been anything else.</li>}
      </ol>
    </Kept>
  )
}

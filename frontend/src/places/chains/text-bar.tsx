// Which text is looked at: the field, the record, a sample, or one's own.
import type { Collection, RecordAnswer } from '../../api/queries'
import { useState } from 'react'
import { RecordBox } from '../../parts/record-box'
import { Select } from '../../parts/select'
import { SampleMenu } from './sample-menu'

export function TextBar(props: {
  collection: Collection
  field: string
  onField: (field: string) => void
  // Of a chain for each language: which one is looked at, and which there are.
  language: string | null
  languages: string[]
  onLanguage: (language: string) => void
  record: RecordAnswer | null
  title: string
  onKey: (key: string | null | undefined) => void
  samples: boolean
  onSamples: (open: boolean) => void
  own: boolean
  onOwn: () => void
  beside: boolean
  onBeside: () => void
}) {
  const { record } = props
  const fields = props.collection.fields.filter((field) => field.role !== 'key')
  return (
    <div className="line-b relative flex flex-wrap items-baseline gap-x-3 gap-y-1 px-4 py-2">
      <FieldChoice field={props.field} onField={props.onField} fields={fields} />
      {props.language !== null && (
        <Select
          label="Language that the chain is for"
          title="This reading has a chain for each language; the record’s own is shown unless you choose"
          className="bg-transparent font-semibold"
          value={props.language}
          choices={props.languages.map((one) => [one, one === 'else' ? 'other languages' : one] as const)}
          onChoose={props.onLanguage}
        />
      )}
      <span className="quiet small">Record</span>
      <Neighbours collection={props.collection.name} record={record} onKey={props.onKey} />
      <span dir="auto" className="quiet min-w-[64px] flex-1 truncate">
        {props.title}
      </span>
      <SamplesButton samples={props.samples} onSamples={props.onSamples} />
      <button type="button" className="btn btn-ghost btn-xs font-normal" onClick={props.onOwn}>
        {props.own ? "Back to the record's text" : 'Type a text of your own'}
      </button>
      <button
        type="button"
        className="btn btn-ghost btn-xs font-normal"
        aria-pressed={props.beside}
        title="Two chains on this text (b)"
        onClick={props.onBeside}
      >
        {props.beside ? 'Back to the query' : 'Side by side'}
      </button>
      {props.samples && (
        <SampleMenu
          collection={props.collection}
          field={props.field}
          onChoose={(key) => {
            props.onSamples(false)
            props.onKey(key)
          }}
          onClose={() => props.onSamples(false)}
        />
      )}
    </div>
  )
}

function FieldChoice({
  field,
  onField,
  fields,
}: {
  field: string
  onField: (field: string) => void
  fields: Collection['fields']
}) {
  return (
    <label className="flex items-baseline gap-2">
      <span className="quiet small">Field</span>
      <select
        aria-label="Field"
        className="bg-transparent font-semibold"
        value={field}
        onChange={(event) => onField(event.target.value)}
      >
        {fields.map((one) => (
          <option key={one.name}>{one.name}</option>
        ))}
      </select>
    </label>
  )
}

function Neighbours({
  collection,
  record,
  onKey,
}: {
  collection: string
  record: RecordAnswer | null
  onKey: (key: string | null | undefined) => void
}) {
  // What is being typed; null where the shown record's key stands.
  const [typed, setTyped] = useState<string | null>(null)
  const open = (key: string) => {
    setTyped(null)
    if (key.trim() !== '') onKey(key.trim())
  }
  return (
    <span className="-ml-1 flex items-baseline gap-1">
      <button
        type="button"
        aria-label="Record before"
        title="Record before (p)"
        className="btn btn-ghost btn-xs px-1.5"
        disabled={!record?.key_before}
        onClick={() => onKey(record?.key_before)}
      >
        ←
      </button>
      <form
        className="flex"
        onSubmit={(event) => {
          event.preventDefault()
          if (typed !== null) open(typed)
        }}
        onBlur={() => setTyped(null)}
      >
        <RecordBox
          collection={collection}
          label="Key or title of the record"
          className="w-[110px] border-b border-base-300 bg-transparent font-mono text-[14px] font-semibold"
          value={typed ?? record?.key ?? ''}
          onType={setTyped}
          onChoose={open}
        />
      </form>
      <button
        type="button"
        aria-label="Next record"
        title="Next record (n)"
        className="btn btn-ghost btn-xs px-1.5"
        disabled={!record?.key_after}
        onClick={() => onKey(record?.key_after)}
      >
        →
      </button>
    </span>
  )
}

function SamplesButton({ samples, onSamples }: { samples: boolean; onSamples: (open: boolean) => void }) {
  return (
    <span className="relative">
      <button
        type="button"
        className="btn btn-ghost btn-xs font-normal"
        title="Texts of the collection (s)"
        aria-expanded={samples}
        onClick={() => onSamples(!samples)}
      >
        Samples
      </button>
    </span>
  )
}

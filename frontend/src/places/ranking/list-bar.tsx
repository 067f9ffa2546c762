// What narrows and orders the list beside the query: filters, facets, sorting.
import { useState } from 'react'
import type { Collection, Filter, SearchAnswer } from '../../api/queries'
import { countText } from '../../thinking/figures'
import { countable } from '../../thinking/records'
import { filterText, toggledValue, type FilterPart } from '../../thinking/ranker-parts'
import { useRows } from './use-rows'
import { Changing } from '../../shell/changing'

export type Narrowed = { filters: FilterPart[]; facets: string[]; sort: string | null }

export function ListBar(props: {
  collection: Collection
  answer: SearchAnswer | null
  narrowed: Narrowed
  onNarrow: (changes: Partial<Narrowed>) => void
  onPark: () => void
  onComplain: () => void
  asksSpaces: boolean
  inLists: boolean
  onLists: () => void
  typed: boolean
  onTyped: () => void
}) {
  const { collection, answer, narrowed, onNarrow } = props
  const [rows, setRows] = useRows()
  const fields = countable(collection)
  return (
    <div className="line-b small flex flex-wrap items-center gap-x-3 gap-y-1 px-4 py-[5px]">
      <OrderChoice narrowed={narrowed} onNarrow={onNarrow} fields={fields} />
      <FacetChoice onNarrow={onNarrow} narrowed={narrowed} fields={fields} />
      <button type="button" className="link" title="Keep this list in sight while you go on (p)" onClick={props.onPark}>
        park this list
      </button>
      <Changing>
        <button
          type="button"
          className="link"
          title="Make a judged query or an expectation of what is wrong here (c)"
          onClick={props.onComplain}
        >
          complain
        </button>
      </Changing>
      <button
        type="button"
        className="link"
        aria-label="compact rows"
        aria-pressed={rows === 'compact'}
        title="One line a record (d)"
        onClick={() => setRows(rows === 'compact' ? 'whole' : 'compact')}
      >
        compact
      </button>
      <button
        type="button"
        className="link"
        aria-pressed={props.typed}
        title="The list while the query is being typed, letter by letter (t)"
        onClick={props.onTyped}
      >
        as typed
      </button>
      {props.asksSpaces && (
        <button
          type="button"
          className="link"
          aria-pressed={props.inLists}
          title="Words, meaning and the blend (l)"
          onClick={props.onLists}
        >
          {props.inLists ? 'one list' : 'side by side'}
        </button>
      )}
      {narrowed.filters.map((filter, i) => (
        <FilterSign key={i} filter={filter} onNarrow={onNarrow} narrowed={narrowed} i={i} />
      ))}
      {narrowed.facets.map((field) => (
        <Facet
          key={field}
          field={field}
          values={answer?.facets[field] ?? []}
          chosen={narrowed.filters.find((filter) => filter.field === field)?.one_of ?? []}
          onToggle={(value) => onNarrow({ filters: toggledValue(narrowed.filters, field, value) })}
          onClose={() => onNarrow({ facets: narrowed.facets.filter((one) => one !== field) })}
        />
      ))}
    </div>
  )
}

function OrderChoice({
  narrowed,
  onNarrow,
  fields,
}: {
  narrowed: Narrowed
  onNarrow: (changes: Partial<Narrowed>) => void
  fields: Collection['fields']
}) {
  return (
    <label className="flex items-center gap-1">
      <span className="quiet">order</span>
      <select
        aria-label="Order of the list"
        className="max-w-[104px] bg-transparent"
        value={narrowed.sort ?? ''}
        onChange={(event) => onNarrow({ sort: event.target.value || null })}
      >
        <option value="">by relevance</option>
        {fields.flatMap((field) => [
          <option key={field.name} value={field.name}>
            {field.name}, least first
          </option>,
          <option key={`-${field.name}`} value={`-${field.name}`}>
            {field.name}, greatest first
          </option>,
        ])}
      </select>
    </label>
  )
}

function FacetChoice({
  onNarrow,
  narrowed,
  fields,
}: {
  onNarrow: (changes: Partial<Narrowed>) => void
  narrowed: Narrowed
  fields: Collection['fields']
}) {
  return (
    <label className="flex items-center gap-1">
      <span className="quiet">count</span>
      <select
        aria-label="Count the values of a field"
        className="max-w-[108px] bg-transparent"
        value=""
        onChange={(event) =>
          event.target.value && onNarrow({ facets: [...new Set([...narrowed.facets, event.target.value])] })
        }
      >
        <option value="">a field’s values</option>
        {fields.map((field) => (
          <option key={field.name}>{field.name}</option>
        ))}
      </select>
    </label>
  )
}

function FilterSign({
  filter,
  onNarrow,
  narrowed,
  i,
}: {
  filter: Filter
  onNarrow: (changes: Partial<Narrowed>) => void
  narrowed: Narrowed
  i: number
}) {
  return (
    <span className="flex items-center gap-1 border-b border-primary">
      {filterText(filter)}
      <button
        type="button"
        aria-label={`Drop the filter ${filterText(filter)}`}
        className="px-1"
        onClick={() => onNarrow({ filters: narrowed.filters.filter((_, j) => j !== i) })}
      >
        ×
      </button>
    </span>
  )
}

const SHOWN = 8

function Facet(props: {
  field: string
  values: { value: string; count: number }[]
  chosen: string[]
  onToggle: (value: string) => void
  onClose: () => void
}) {
  const [all, setAll] = useState(false)
  const shown = all ? props.values : props.values.slice(0, SHOWN)
  return (
    <div role="group" aria-label={`Values of ${props.field}`} className="flex w-full flex-wrap items-baseline gap-x-3">
      <span className="font-semibold">{props.field}</span>
      {shown.map((one) => {
        const on = props.chosen.includes(one.value)
        return (
          <button
            key={one.value}
            type="button"
            aria-pressed={on}
            className={`max-w-[220px] cursor-pointer truncate ${on ? 'font-semibold text-primary underline' : 'hover:underline'}`}
            onClick={() => props.onToggle(one.value)}
          >
            {one.value} <span className="quiet">{countText(one.count)}</span>
          </button>
        )
      })}
      {props.values.length === 0 && <span className="quiet">no values</span>}
      {props.values.length > SHOWN && (
        <button type="button" className="link" onClick={() => setAll(!all)}>
          {all ? 'fewer' : `${props.values.length - SHOWN} more`}
        </button>
      )}
      <button
        type="button"
        aria-label={`Close the values of ${props.field}`}
        className="quiet px-1"
        onClick={props.onClose}
      >
        ×
      </button>
    </div>
  )
}

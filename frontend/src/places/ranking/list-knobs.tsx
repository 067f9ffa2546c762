// What every list is held to: filters of the ranker, one row per group, the order of equal scores.
import type { Collection } from '../../api/queries'
import type { Draft } from '../../shell/use-draft'
import { filterExample, orderExample } from '../../thinking/examples'
import { filterText, parsedFilter, without } from '../../thinking/ranker-parts'
import { Choice, TextKnob } from './controls'
import type { Undo } from '../../shell/use-undo'

const differs = (a: unknown, b: unknown) => JSON.stringify(a) !== JSON.stringify(b)

export function listSays(draft: Draft): { says: string; moved: boolean } {
  const { filters, one_per, equals_by } = draft.document
  const was = draft.baseline.filled_in
  const said = [
    filters?.length ? `${filters.length} filtered` : '',
    one_per ? `one per ${one_per}` : '',
    equals_by?.length ? `equals by ${equals_by[0]}` : '',
  ]
  return {
    says: said.filter(Boolean).join(', ') || 'all records',
    moved: differs([filters, one_per, equals_by], [was.filters, was.one_per, was.equals_by]),
  }
}

export function ListKnobs({ collection, draft, undo }: { collection: Collection; draft: Draft; undo: Undo }) {
  const { document } = draft
  const fields = collection.fields.map((field) => field.name)
  const filters = document.filters ?? []
  const known = (field: string) => fields.includes(field)
  return (
    <>
      <ul className="small">
        {filters.map((filter, i) => (
          <li key={i} className="flex justify-between gap-2">
            <span className="min-w-0 wrap-anywhere">{filterText(filter)}</span>
            <button
              type="button"
              className="link"
              aria-label={`Take out the filter ${filterText(filter)}`}
              onClick={() => undo.commit({ ...document, filters: without(filters, i) })}
            >
              ×
            </button>
          </li>
        ))}
      </ul>
      <TextKnob
        name="Add a filter to the ranker"
        mono
        placeholder={filterExample(collection.fields)}
        value=""
        fits={(text) => text.trim() === '' || known(parsedFilter(text)?.field ?? '')}
        onText={(text) => {
          const filter = parsedFilter(text)
          if (filter) undo.commit({ ...document, filters: [...filters, filter] })
        }}
      />
      <Choice
        name="One row per"
        value={document.one_per ?? ''}
        choices={[['', 'record'], ...fields.map((field) => [field, field] as const)]}
        onChoose={(field) => undo.commit({ ...document, one_per: field || null })}
      />
      <label className="block pt-1">
        <span>Equal scores by</span>
        <TextKnob
          name="Equal scores by"
          mono
          placeholder={orderExample(collection.fields)}
          value={(document.equals_by ?? []).join(', ')}
          fits={(text) => namesOf(text).every((name) => known(name.replace(/^-/, '')))}
          onText={(text) => undo.commit({ ...document, equals_by: namesOf(text) })}
        />
      </label>
    </>
  )
}

const namesOf = (text: string) =>
  text
    .split(',')
    .map((name) => name.trim())
    .filter(Boolean)

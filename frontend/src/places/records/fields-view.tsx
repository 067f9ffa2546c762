// The fields as a table that is read at a glance; one of them opens to its values.
import { useQuery } from '@tanstack/react-query'
import type { Collection } from '../../api/queries'
import { profile, type FieldProfile } from '../../api/records'
import { Empty } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { countText } from '../../thinking/figures'
import { distinctText, shareText } from '../../thinking/profile'
import { Distribution } from './distribution'
import { FieldPanel } from './field-panel'
import { Kept, Unanswered } from '../../parts/answered'
import { TakeTable } from '../../parts/take-table'

export function FieldsView({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const seen = useQuery(profile(collection.name, collection.revision))
  const names = collection.fields.map((field) => field.name)
  const chosen = params.get('field')
  const at = names.indexOf(chosen ?? '')
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
    if (event.key === 'j' || event.key === 'k')
      change({ field: names[Math.max(0, Math.min(names.length - 1, at + (event.key === 'j' ? 1 : -1)))] ?? null })
    if (event.key === 'Escape') change({ field: null })
  })
  if (collection.records === 0) {
    return <Empty title="This collection has no records yet">Import a file: Import and export (4).</Empty>
  }
  if (!seen.data) return <Unanswered asked={[seen]} what="what the fields hold" />
  const { looked_at, records } = seen.data
  const field = collection.fields.find((one) => one.name === chosen)
  const profiled = seen.data.fields.find((one) => one.name === chosen)
  return (
    <Kept asked={[seen]} what="what the fields hold" className="h-full">
      <div className={`panes grid h-full ${field && profiled ? 'grid-cols-[minmax(0,1fr)_420px]' : ''}`}>
        <section aria-label="Fields" className="long-table min-h-0 overflow-auto">
          {looked_at < records && (
            <p className="line-b px-4 py-2">
              From a sample of {countText(looked_at)} of {countText(records)} records.
            </p>
          )}
          <p className="px-4 pt-1 text-right">
            <TakeTable what="the fields" file={`${collection.name}-fields`} />
          </p>
          <table className="w-full border-collapse text-left">
            <thead>
              <tr className="line-b quiet small sticky top-0 z-10 bg-base-100">
                <th className="py-2 pr-2 pl-4 font-normal">Field</th>
                <th className="px-2 font-normal">Filled</th>
                <th className="px-2 text-right font-normal">Different</th>
                <th className="px-2 font-normal">Distribution</th>
                {!field && <th className="px-2 font-normal">Languages</th>}
                {!field && <th className="px-2 font-normal">Odd</th>}
                <th className="py-2 pr-4 pl-2 font-normal">Commonest</th>
              </tr>
            </thead>
            <tbody>
              {collection.fields.map((one) => {
                const own = seen.data.fields.find((other) => other.name === one.name)
                if (!own) return null
                return (
                  <Row
                    key={one.name}
                    field={one}
                    own={own}
                    lookedAt={looked_at}
                    narrow={field !== undefined}
                    chosen={one.name === chosen}
                    onChoose={() => change({ field: one.name === chosen ? null : one.name })}
                  />
                )
              })}
            </tbody>
          </table>
        </section>
        {field && profiled && (
          <FieldPanel key={field.name} collection={collection} field={field} profiled={profiled} lookedAt={looked_at} />
        )}
      </div>
    </Kept>
  )
}

function Row(props: {
  field: Collection['fields'][number]
  own: FieldProfile
  lookedAt: number
  // Whether a field is open beside the table, so that there is room for less.
  narrow: boolean
  chosen: boolean
  onChoose: () => void
}) {
  const { field: one, own } = props
  return (
    <tr
      aria-current={props.chosen ? 'true' : undefined}
      className={`line-b cursor-pointer hover:bg-base-200 ${props.chosen ? 'bg-base-200' : ''}`}
      onClick={props.onChoose}
    >
      <td className="py-1.5 pr-2 pl-4">
        <button
          type="button"
          className="block max-w-[200px] cursor-pointer truncate text-left font-semibold"
          title={one.name}
        >
          {one.name}
        </button>
        <span className="quiet small whitespace-nowrap">
          {one.kind}
          {one.several && ', several'}
          {one.role && ` · ${one.role}`}
          {one.passages && ' · passages'}
        </span>
      </td>
      <td className="px-2 whitespace-nowrap">
        <Share part={own.filled} whole={props.lookedAt} />
      </td>
      <td className="figure px-2">{distinctText(own)}</td>
      <td className="px-2">
        <Distribution field={own} small />
      </td>
      {!props.narrow && (
        <td className="small px-2" title={own.languages.map((l) => `${l.language} ${l.count}`).join(', ')}>
          {own.languages
            .slice(0, 5)
            .map((l) => l.language)
            .join(' ')}
        </td>
      )}
      {!props.narrow && (
        <td className="small px-2">
          {own.oddities.length > 0 && (
            <span className="loss" title={own.oddities.map((odd) => `${odd.kind}: ${odd.count}`).join('\n')}>
              {own.oddities[0]?.kind} {countText(own.oddities[0]?.count ?? 0)}
            </span>
          )}
        </td>
      )}
      <td className="quiet small w-full max-w-0 truncate py-1.5 pr-4 pl-2">
        {/* Each by itself: values may be written from right to left. */}
        {((own.top[0]?.count ?? 0) > 1
          ? own.top.slice(0, 6).map((top) => [top.value, ` ×${countText(top.count)}`] as const)
          : own.samples.map((sample) => [sample, ''] as const)
        ).map(([value, times], i) => (
          <span key={i}>
            {i > 0 && ' · '}
            <bdi>{value}</bdi>
            {times}
          </span>
        ))}
      </td>
    </tr>
  )
}

function Share({ part, whole }: { part: number; whole: number }) {
  return (
    <span className="inline-flex items-center gap-2" title={`${countText(part)} of ${countText(whole)} records`}>
      <span aria-hidden className="h-[7px] w-[48px] bg-base-300">
        <span
          className="fills block h-full bg-secondary"
          style={{ width: `${whole === 0 ? 0 : (100 * part) / whole}%` }}
        />
      </span>
      <span className="figure min-w-[44px]">{shareText(part, whole)}</span>
    </span>
  )
}

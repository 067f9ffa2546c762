// Import and export: a source is seen as it will be read, corrected, and then goes in.
import { useQuery } from '@tanstack/react-query'
import { here } from '../../api/base'
import { useAddress } from '../../shell/address'
import type { Collection } from '../../api/queries'
import { imports, type Import } from '../../api/records'
import { Unanswered } from '../../parts/answered'
import { TakeAway } from '../../parts/take-away'
import { UndoImport } from './undo-import'
import { countText } from '../../thinking/figures'
import { reportText, STATE_WORDS, undoneText } from '../../thinking/progress'
import { whenText } from '../../thinking/revisions'
import { ImportProgress } from './import-progress'
import { ImportWizard } from './import-wizard'

const EXPORTS = [
  { format: 'jsonl', name: 'JSON Lines' },
  { format: 'csv', name: 'CSV' },
  { format: 'parquet', name: 'Parquet' },
]

export function ImportView({ collection }: { collection: Collection }) {
  const { params } = useAddress()
  const past = useQuery(imports(collection.name))
  const followed = params.get('import')
  return (
    <div className="h-full overflow-y-auto">
      <ImportWizard collection={collection} />
      <section aria-label="Export" className="line-t px-4 py-3">
        <h2 className="heading quiet pb-1">Export</h2>
        {collection.records === 0 ? (
          <p className="quiet">There are no records to export yet.</p>
        ) : (
          <p className="flex flex-wrap items-baseline gap-x-4">
            <span>{countText(collection.records)} records as</span>
            {EXPORTS.map(({ format, name }) => (
              <a
                key={format}
                className="link"
                href={here(`/api/collections/${encodeURIComponent(collection.name)}/export?format=${format}`)}
                download
              >
                {name}
              </a>
            ))}
            <span className="quiet small">Importing an export gives the same records again.</span>
          </p>
        )}
      </section>
      <section aria-label="Imports so far" className="line-t">
        <div className="flex items-baseline gap-3 px-4 pt-3 pb-1">
          <h2 className="heading quiet">Imports so far</h2>
          {(past.data?.length ?? 0) > 0 && (
            <TakeAway
              what="the imports"
              file={`${collection.name}-imports`}
              rows={() => importsTable(past.data ?? [])}
            />
          )}
        </div>
        {!past.data && <Unanswered asked={[past]} what="the imports" />}
        {past.data?.every((one) => String(one.id) === followed) && (
          <p className="quiet px-4 pb-3">{past.data.length === 0 ? 'None yet.' : 'None before.'}</p>
        )}
        <ul>
          {past.data
            ?.filter((one) => String(one.id) !== followed)
            .map((one) => (
              <PastImport key={one.id} one={one} />
            ))}
        </ul>
      </section>
    </div>
  )
}

function whatCame(one: Import): string {
  if (one.undone) return `undone: ${undoneText(one.undone)}`
  if (one.state === 'done' && one.report) return reportText(one.report)
  return one.problem ? `${STATE_WORDS[one.state]}: ${one.problem}` : STATE_WORDS[one.state]
}

const importsTable = (all: Import[]) => [
  ['begun', 'source', 'what came of it', 'rows rejected'],
  ...all.map((one) => [one.created_at, one.name, whatCame(one), one.rows_rejected]),
]

function PastImport({ one }: { one: Import }) {
  const { change } = useAddress()
  const unfinished = ['waiting', 'running', 'undecided'].includes(one.state)
  if (unfinished) {
    return (
      <li className="line-b px-4 py-2">
        <ImportProgress id={one.id} first={one} />
      </li>
    )
  }
  return (
    <li className="row-stack line-b grid grid-cols-[150px_220px_minmax(0,1fr)_180px] items-baseline gap-3 px-4 py-1.5">
      <span className="quiet small">
        {whenText(one.created_at)}
        {one.by_person && `, ${one.by_person}`}
      </span>
      <span className="truncate" title={one.name}>
        {one.name}
      </span>
      <span className={one.state === 'failed' ? 'loss wrap-anywhere' : 'quiet wrap-anywhere'}>{whatCame(one)}</span>
      <span className="flex justify-end gap-3">
        <UndoImport one={one} />
        {one.rows_rejected > 0 && (
          <button
            type="button"
            className="link"
            onClick={() => change({ view: 'rejected', of: String(one.id) }, false)}
          >
            {countText(one.rows_rejected)} rejected
          </button>
        )}
      </span>
    </li>
  )
}

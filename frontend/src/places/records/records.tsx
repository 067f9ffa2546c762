// Records: what came in and what it looks like.
import { useCallback } from 'react'
import type { Collection } from '../../api/queries'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { countText } from '../../thinking/figures'
import { BrowseView } from './browse-view'
import { CollectionsView } from './collections-view'
import { DeletedView } from './deleted-view'
import { DisplayView } from './display-view'
import { FieldsView } from './fields-view'
import { ImportView } from './import-view'
import { RejectedView } from './rejected-view'

type View = { view: string; name: string; body: (props: { collection: Collection }) => React.ReactNode }

const VIEWS: View[] = [
  { view: 'fields', name: 'Fields', body: FieldsView },
  { view: 'browse', name: 'Browse', body: BrowseView },
  { view: 'display', name: 'In result lists', body: DisplayView },
  { view: 'import', name: 'Import and export', body: ImportView },
  { view: 'rejected', name: 'Rejected rows', body: RejectedView },
  { view: 'deleted', name: 'Deleted', body: DeletedView },
  { view: 'collections', name: 'Collections', body: CollectionsView },
]

export function Records({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const wanted = params.get('view') ?? (collection.records === 0 ? 'import' : 'fields')
  const here = VIEWS.find(({ view }) => view === wanted) ?? VIEWS[0]!
  const open = useCallback((view: string) => change({ view, key: null, field: null }, false), [change])
  useKeys(
    useCallback(
      (event: KeyboardEvent) => {
        if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
        const chosen = VIEWS[Number(event.key) - 1]
        if (chosen) open(chosen.view)
      },
      [open],
    ),
  )
  const Body = here.body
  return (
    <div className="flex h-full flex-col">
      <nav aria-label="Views of the records" className="line-b flex items-stretch gap-1 px-2">
        {VIEWS.map(({ view, name }, i) => (
          <button
            key={view}
            type="button"
            title={`${name} (${i + 1})`}
            aria-current={view === here.view ? 'page' : undefined}
            className={`cursor-pointer border-b-[3px] px-3 pt-2 pb-[5px] ${
              view === here.view ? 'border-primary font-semibold' : 'quiet border-transparent hover:bg-base-200'
            }`}
            onClick={() => open(view)}
          >
            {name}
            {view === 'rejected' && collection.rejected > 0 && <span className="loss"> {countText(collection.rejected)}</span>}
          </button>
        ))}
        <span className="quiet small flex-1 self-center pr-2 text-right">
          {countText(collection.records)} records, revision {collection.revision}
        </span>
      </nav>
      <div className="min-h-0 flex-1">
        <Body collection={collection} />
      </div>
    </div>
  )
}

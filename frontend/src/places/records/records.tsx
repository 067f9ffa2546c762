// Records: what came in and what it looks like.
import { useCallback } from 'react'
import type { Collection } from '../../api/queries'
import { ViewTabs } from '../../shell/view-tabs'
import { useAddress } from '../../shell/address'
import { countText } from '../../thinking/figures'
import { BrowseView } from './browse-view'
import { CollectionsView } from '../collections/collections-view'
import { DeletedView } from './deleted-view'
import { DisplayView } from './display-view'
import { FieldsView } from './fields-view'
import { ImportView } from '../imports/import-view'
import { RejectedView } from '../imports/rejected-view'

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
  const Body = here.body
  const tabs = VIEWS.map(({ view, name }) => ({
    view,
    name,
    extra:
      view === 'rejected' && collection.rejected > 0 ? (
        <span className="loss"> {countText(collection.rejected)}</span>
      ) : undefined,
  }))
  return (
    <div className="flex h-full flex-col">
      <ViewTabs label="Views of the records" tabs={tabs} here={here.view} onOpen={open}>
        <span className="quiet small flex-1 self-center pr-2 text-right">
          {countText(collection.records)} records, revision {collection.revision}
        </span>
      </ViewTabs>
      <div className="min-h-0 flex-1">
        <Body collection={collection} />
      </div>
    </div>
  )
}

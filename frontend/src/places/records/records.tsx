// Records: what came in and what it looks like.
import { useCallback, type ReactNode } from 'react'
import type { Collection } from '../../api/queries'
import { RECORDS_VIEWS } from '../../shell/views'
import { ViewTabs } from '../../shell/view-tabs'
import { useAddress } from '../../shell/address'
import { countText } from '../../thinking/figures'
import { hasPages } from '../../thinking/records'
import { BrowseView } from './browse-view'
import { CollectionsView } from '../collections/collections-view'
import { DeletedView } from './deleted-view'
import { DisplayView } from './display-view'
import { FieldsView } from './fields-view'
import { InStepView } from '../following/in-step-view'
import { ImportView } from '../imports/import-view'
import { ReadingView } from './reading-view'
import { RejectedView } from '../imports/rejected-view'

const BODIES: Record<(typeof RECORDS_VIEWS)[number]['view'], (props: { collection: Collection }) => ReactNode> = {
  fields: FieldsView,
  browse: BrowseView,
  display: DisplayView,
  import: ImportView,
  following: InStepView,
  rejected: RejectedView,
  deleted: DeletedView,
  collections: CollectionsView,
  reading: ReadingView,
}

export function Records({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const wanted = params.get('view') ?? (collection.records === 0 ? 'import' : 'fields')
  const here = RECORDS_VIEWS.find(({ view }) => view === wanted) ?? RECORDS_VIEWS[0]
  const open = useCallback((view: string) => change({ view, key: null, field: null }, false), [change])
  const Body = BODIES[here.view]
  const tabs = RECORDS_VIEWS.filter(({ view }) => view !== 'reading' || hasPages(collection)).map(({ view, name }) => ({
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

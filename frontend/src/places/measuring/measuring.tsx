// Measures: the draft's sheet, rankers by measures, two of them head to head, the owner's page, the diary.
import { useCallback, type ReactNode } from 'react'
import type { Collection } from '../../api/queries'
import { Empty } from '../../parts/notes'
import { MEASURES_VIEWS } from '../../shell/views'
import { ViewTabs } from '../../shell/view-tabs'
import { useAddress } from '../../shell/address'
import { useSetName } from '../../shell/use-draft'
import { DiaryView } from './diary-view'
import { HeadView } from './head-view'
import { LettersView } from './letters-view'
import { MissedView } from './missed-view'
import { OwnerView } from './owner-view'
import { QualityView } from './quality-view'
import { RankersView } from './rankers-view'
import { RulesBar } from './rules-bar'
import { SheetView } from './sheet-view'

const BODIES: Record<
  (typeof MEASURES_VIEWS)[number]['view'],
  (props: { collection: Collection; set: string }) => ReactNode
> = {
  sheet: SheetView,
  missed: MissedView,
  rankers: RankersView,
  head: HeadView,
  owner: OwnerView,
  time: QualityView,
  diary: DiaryView,
  letters: LettersView,
}

export function Measures({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const set = useSetName(collection)
  const here = MEASURES_VIEWS.find(({ view }) => view === params.get('view')) ?? MEASURES_VIEWS[0]
  const open = useCallback((view: string) => change({ view }, false), [change])
  if (set === null) {
    return (
      <Empty title="No judged set yet">
        A judged set is a list of queries with grades for records. Make one in Judging (<kbd>g j</kbd>), or load one:{' '}
        <code>./paleharbor judged load {collection.name} SET --queries FILE [--grades FILE]</code>
      </Empty>
    )
  }
  const Body = BODIES[here.view]
  return (
    <div className="flex h-full flex-col">
      <ViewTabs label="Views of the measures" tabs={MEASURES_VIEWS} here={here.view} onOpen={open}>
        {/* Letters go by no rule of a measure. */}
        {here.view !== 'letters' && <RulesBar />}
      </ViewTabs>
      <div className="min-h-0 flex-1">
        <Body key={set} collection={collection} set={set} />
      </div>
    </div>
  )
}

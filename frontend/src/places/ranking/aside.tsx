// Beside the list: why a row is there, why a record is not, and the versions kept so far.
import type { Collection, Filter, JudgedSet, RankerChoice, Result } from '../../api/queries'
import { pressByArrow } from '../../parts/arrows'
import { useAddress } from '../../shell/address'
import type { Draft } from '../../shell/use-draft'
import { RANKING_TABS } from '../../shell/views'
import { hasPages } from '../../thinking/records'
import { MissedPanel } from './missed-panel'
import { PageOfRow } from './page-of-row'
import { SidesPanel } from './sides-panel'
import { VersionsPanel } from './versions-panel'
import { WhyNotPanel } from './why-not-panel'
import { WhyPanel } from './why-panel'
import type { Undo } from '../../shell/use-undo'

export function Aside(props: {
  collection: Collection
  draft: Draft
  undo: Undo
  query: string
  row: Result | null
  results: Result[]
  choice: RankerChoice
  set: string | null
  judgedQuery: JudgedSet['queries'][number] | undefined
  filters: Filter[]
  language: string | null
  typed: boolean
}) {
  const { params, change } = useAddress()
  const asked = params.get('tab')
  const tabs = RANKING_TABS.filter(({ view }) => view !== 'page' || hasPages(props.collection))
  const tab = tabs.find(({ view }) => view === asked)?.view ?? 'why'
  return (
    <aside aria-label={tabs.find(({ view }) => view === tab)?.name} className="line-l flex min-h-0 flex-col">
      <div
        role="tablist"
        aria-label="Beside the list"
        onKeyDown={pressByArrow}
        className={`line-b flex px-4 ${tabs.length > 5 ? 'gap-[11px]' : 'gap-4'}`}
      >
        {tabs.map(({ view: name, name: words, ...more }) => (
          <button
            key={name}
            type="button"
            role="tab"
            aria-selected={tab === name}
            title={'hint' in more ? more.hint : undefined}
            tabIndex={tab === name ? 0 : -1}
            className={`heading cursor-pointer border-b-2 py-2 whitespace-nowrap ${tab === name ? 'border-primary' : 'quiet border-transparent'}`}
            onClick={() => change({ tab: name === 'why' ? null : name })}
          >
            {words}
          </button>
        ))}
      </div>
      <div role="tabpanel" tabIndex={0} className="min-h-0 flex-1 overflow-y-auto">
        {tab === 'versions' ? (
          <VersionsPanel collection={props.collection} draft={props.draft} />
        ) : tab === 'sides' ? (
          <SidesPanel collection={props.collection} draft={props.draft} />
        ) : tab === 'missed' ? (
          <MissedPanel {...props} />
        ) : tab === 'page' ? (
          props.row ? (
            <PageOfRow {...props} row={props.row} />
          ) : (
            <p className="quiet p-4">No row, so no page.</p>
          )
        ) : tab === 'not' ? (
          <WhyNotPanel {...props} />
        ) : props.row ? (
          <WhyPanel
            collection={props.collection}
            query={props.query}
            result={props.row}
            results={props.results}
            choice={props.choice}
            filters={props.filters}
            language={props.language}
            typed={props.typed}
          />
        ) : (
          <p className="quiet p-4">
            {props.query.trim() === ''
              ? 'Choose a row to see its arithmetic.'
              : 'No row, so nothing to explain. Why not (n) tells what keeps a record out.'}
          </p>
        )}
      </div>
    </aside>
  )
}

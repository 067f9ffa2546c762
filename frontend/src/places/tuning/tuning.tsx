// Tuning: better settings of a ranker's knobs are searched for, and tried on queries that were held out.
import { useQuery } from '@tanstack/react-query'
import { useCallback } from 'react'
import type { Collection } from '../../api/queries'
import { tunings } from '../../api/tuning'
import { Kept, Unanswered } from '../../parts/answered'
import { Empty, ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { useDraft, useSetName } from '../../shell/use-draft'
import { ViewTabs } from '../../shell/view-tabs'
import { TUNING_VIEWS } from '../../shell/views'
import { FirstTuning } from './first-tuning'
import { GrowthView } from './growth-view'
import { LedgerView } from './ledger-view'
import { RemediesView } from './remedies-view'
import { PlanForm } from './plan-form'
import { TuningsList } from './tunings-list'
import { TuningView } from './tuning-view'

export function Tuning({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const set = useSetName(collection)
  const here = TUNING_VIEWS.find(({ view }) => view === params.get('view')) ?? TUNING_VIEWS[0]
  const open = useCallback((view: string) => change({ view }, false), [change])
  if (set === null)
    return (
      <Empty title="No judged set yet">
        A ranker is tuned on judged queries. Make a set in Judging (<kbd>g j</kbd>), or begin without one.
        <FirstTuning collection={collection.name} />
      </Empty>
    )
  return (
    <div className="flex h-full flex-col">
      <ViewTabs label="Views of tuning" tabs={TUNING_VIEWS} here={here.view} onOpen={open} />
      <div className="min-h-0 flex-1">
        {here.view === 'remedies' ? (
          <RemediesView key={set} collection={collection} set={set} />
        ) : here.view === 'growth' ? (
          <GrowthView key={set} collection={collection} set={set} />
        ) : here.view === 'ledger' ? (
          <LedgerView key={set} collection={collection} set={set} />
        ) : (
          <SearchView key={set} collection={collection} set={set} />
        )}
      </div>
    </div>
  )
}

function SearchView({ collection, set }: { collection: Collection; set: string }) {
  const { params, change } = useAddress()
  const { draft, error } = useDraft(collection)
  const found = useQuery(tunings(collection.name))
  if (error) return <ProblemNote error={error} />
  if (!found.data || draft === null) return <Unanswered asked={[found]} what="the tunings" />
  const wanted = Number(params.get('tuning') ?? Number.NaN)
  const here = Number.isNaN(wanted) ? (found.data[0]?.id ?? null) : wanted
  const open = (id: number | null) => change({ tuning: id === null ? null : String(id) }, false)
  return (
    <Kept asked={[found]} what="the tunings" className="h-full">
      <div className="panes grid h-full grid-cols-[440px_minmax(0,1fr)]">
        <div className="line-r min-h-0 overflow-y-auto" tabIndex={0} role="region" aria-label="What is tuned">
          <PlanForm key={`${collection.name}/${set}`} collection={collection} set={set} draft={draft} onBegun={open} />
          <TuningsList collection={collection} tunings={found.data} here={here} onOpen={open} />
        </div>
        <section className="min-h-0 overflow-y-auto" tabIndex={0} aria-label="What was found">
          {here === null ? (
            <Empty title="Nothing was tuned yet">
              Choose what may be turned and begin. The queries are split in folds: each part is held out once, so that
              what is found is tried on queries that nobody looked at. Locked queries are never touched.
            </Empty>
          ) : (
            <TuningView key={here} collection={collection} number={here} draft={draft} onForgotten={() => open(null)} />
          )}
        </section>
      </div>
    </Kept>
  )
}

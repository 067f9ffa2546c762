// Judging: the queries of a judged set, who judges what, how far judges agree, what is expected, the set's rules.
import { useQuery } from '@tanstack/react-query'
import { useCallback, type ReactNode } from 'react'
import { judgedSets } from '../../api/judging'
import type { Collection } from '../../api/queries'
import { JUDGING_VIEWS } from '../../shell/views'
import { ViewTabs } from '../../shell/view-tabs'
import { useAddress } from '../../shell/address'
import { useSetName } from '../../shell/use-draft'
import { AgreementView } from './agreement-view'
import { ExpectationsView } from './expectations-view'
import { NewSet } from './new-set'
import { QueriesView } from './queries-view'
import type { SetProps } from './set-props'
import { SetView } from './set-view'
import { TasksView } from './tasks-view'
import { Kept, Unanswered } from '../../parts/answered'

const BODIES: Record<(typeof JUDGING_VIEWS)[number]['view'], (props: SetProps) => ReactNode> = {
  queries: QueriesView,
  tasks: TasksView,
  agreement: AgreementView,
  expectations: ExpectationsView,
  set: SetView,
}

export function Judging({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const name = useSetName(collection)
  const found = useQuery(judgedSets(collection.name))
  const making = params.get('new') === 'set'
  const here = JUDGING_VIEWS.find(({ view }) => view === params.get('view')) ?? JUDGING_VIEWS[0]
  const open = useCallback((view: string) => change({ view, new: null, query: null }, false), [change])
  if (!found.data) return <Unanswered asked={[found]} what="the judged sets" />
  const set = found.data.find((one) => one.name === name) ?? found.data[0]
  if (making || !set) return <NewSet collection={collection} first={!set} />
  const Body = BODIES[here.view]
  return (
    <Kept asked={[found]} what="the judged sets" className="h-full">
      <div className="flex h-full flex-col">
        <ViewTabs label="Views of judging" tabs={JUDGING_VIEWS} here={here.view} onOpen={open}>
          <span className="flex flex-[1_0_auto] items-center justify-end gap-2 pr-2">
            <span className="quiet small">
              revision {set.revision}, {set.locked} of {set.queries} queries locked
            </span>
            <select
              aria-label="Judged set"
              className="boxed low w-auto max-w-[220px] bg-transparent pe-7 text-ellipsis"
              value={set.name}
              onChange={(event) =>
                event.target.value === ''
                  ? change({ new: 'set' }, false)
                  : change({ set: event.target.value, query: null }, false)
              }
            >
              {found.data.map((one) => (
                <option key={one.name} value={one.name}>
                  {one.name}
                </option>
              ))}
              <option value="">another set …</option>
            </select>
          </span>
        </ViewTabs>
        <div className="min-h-0 flex-1">
          <Body key={set.name} collection={collection} set={set} />
        </div>
      </div>
    </Kept>
  )
}

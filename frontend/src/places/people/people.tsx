// People: members of the collection, who changed what, everybody of the installation, and oneself.
import { useQuery } from '@tanstack/react-query'
import { useCallback, type ReactNode } from 'react'
import { me } from '../../api/people'
import type { Collection } from '../../api/queries'
import { Unanswered } from '../../parts/answered'
import { useAddress } from '../../shell/address'
import { ViewTabs } from '../../shell/view-tabs'
import { PEOPLE_VIEWS } from '../../shell/views'
import { rightsIn } from '../../thinking/people'
import { ChangesView } from './changes-view'
import { FirstKeeper } from './first-keeper'
import { InstallationView } from './installation-view'
import { MembersView } from './members-view'
import type { PeopleProps } from './people-props'
import { YouView } from './you-view'

type View = (typeof PEOPLE_VIEWS)[number]['view']

const BODIES: Record<View, (props: PeopleProps) => ReactNode> = {
  members: MembersView,
  changes: ChangesView,
  installation: InstallationView,
  you: YouView,
}

export function People({ collection }: { collection: Collection }) {
  const known = useQuery(me())
  const { params, change } = useAddress()
  const open = useCallback((view: string) => change({ view }, false), [change])
  if (!known.data) return <Unanswered asked={[known]} what="who is here" />
  const rights = rightsIn(known.data, collection.name)
  const nobody = !known.data.needs_sign_in
  const tabs = PEOPLE_VIEWS.filter(
    ({ view }) =>
      (view === 'members' && rights.own && !nobody) ||
      (view === 'changes' && rights.own) ||
      (view === 'installation' && rights.keep) ||
      (view === 'you' && !nobody),
  )
  const here = tabs.find(({ view }) => view === params.get('view')) ?? (nobody ? tabs.at(-1) : tabs[0])
  if (!here) return null
  const Body = nobody && here.view === 'installation' ? FirstKeeper : BODIES[here.view]
  return (
    <div className="flex h-full flex-col">
      <ViewTabs label="Views of the people" tabs={tabs} here={here.view} onOpen={open} />
      <div className="min-h-0 flex-1 overflow-y-auto">
        <Body key={collection.name} collection={collection} me={known.data} />
      </div>
    </div>
  )
}

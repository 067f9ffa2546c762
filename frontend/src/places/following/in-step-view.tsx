// A collection in step with a live database: how it stands, or how it is to follow one.
import { useQuery } from '@tanstack/react-query'
import { following, type Ended } from '../../api/following'
import type { Collection } from '../../api/queries'
import { Unanswered } from '../../parts/answered'
import { useHeld } from '../../parts/use-held'
import { useAddress } from '../../shell/address'
import { EndedNote } from './ended-note'
import { FollowForm } from './follow-form'
import { StandingPanel } from './standing-panel'

export function InStepView({ collection }: { collection: Collection }) {
  const told = useQuery(following(collection.name))
  const { params, change } = useAddress()
  const [ended, setEnded] = useHeld<Ended | null>(`ended following ${collection.name}/`, null)
  if (told.data === undefined) return <Unanswered asked={[told]} what="how it stands" />
  const isSaid = told.data !== null && params.get('say') === null
  return (
    <div className="h-full overflow-y-auto">
      {ended && <EndedNote ended={ended} onDone={() => setEnded(null)} />}
      {isSaid && told.data ? (
        <StandingPanel
          collection={collection}
          now={told.data}
          onChange={() => change({ say: 'anew' }, false)}
          onEnded={(how) => setEnded(how.removal || how.problem ? how : null)}
        />
      ) : (
        <FollowForm
          key={collection.name}
          collection={collection}
          before={told.data}
          onDone={() => change({ say: null })}
        />
      )}
    </div>
  )
}

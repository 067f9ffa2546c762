import { useQuery } from '@tanstack/react-query'
import { lazy, Suspense, useEffect, useEffectEvent, useState, type ComponentType } from 'react'
import { Navigate, Route, Routes, useLocation, useParams } from 'react-router'
import { here } from './api/base'
import { me } from './api/people'
import { collections, type Collection } from './api/queries'
import { Boundary } from './parts/boundary'
import { Empty, Loading } from './parts/notes'
import { isPlace, type PlaceName } from './shell/places'
import { Shell } from './shell/shell'
import { useEvents } from './shell/use-events'
import { lastUsed, rememberUsed } from './shell/last-used'
import { firstShown } from './thinking/collections'
import { rightsIn } from './thinking/people'
import { Unanswered } from './parts/answered'

// Each place's script is fetched when it is first gone to.
const SHOWN: Record<PlaceName, ComponentType<{ collection: Collection }>> = {
  records: lazy(() => import('./places/records/records').then((room) => ({ default: room.Records }))),
  ranking: lazy(() => import('./places/ranking/ranking').then((room) => ({ default: room.Ranking }))),
  chains: lazy(() => import('./places/chains/chains').then((room) => ({ default: room.Chains }))),
  spaces: lazy(() => import('./places/spaces/spaces').then((room) => ({ default: room.Spaces }))),
  judging: lazy(() => import('./places/judging/judging').then((room) => ({ default: room.Judging }))),
  measures: lazy(() => import('./places/measuring/measuring').then((room) => ({ default: room.Measures }))),
  delivery: lazy(() => import('./places/delivery/delivery').then((room) => ({ default: room.Delivery }))),
  people: lazy(() => import('./places/people/people').then((room) => ({ default: room.People }))),
  tuning: lazy(() => import('./places/tuning/tuning').then((room) => ({ default: room.Tuning }))),
}
const Judge = lazy(() => import('./places/judge/judge').then((room) => ({ default: room.Judge })))
const SignIn = lazy(() => import('./places/coming-in/sign-in').then((room) => ({ default: room.SignIn })))
const Invited = lazy(() => import('./places/coming-in/invited').then((room) => ({ default: room.Invited })))
const OwnTasks = lazy(() => import('./places/coming-in/own-tasks').then((room) => ({ default: room.OwnTasks })))
const ImportWizard = lazy(() =>
  import('./places/imports/import-wizard').then((room) => ({ default: room.ImportWizard })),
)

export function App() {
  return (
    <Suspense fallback={<Loading what="the page" />}>
      <Routes>
        {/* A judge comes by a link and sees nothing else. */}
        <Route path="/judge/:token" element={<Judge />} />
        <Route path="/sign-in" element={<SignIn />} />
        <Route path="/invited/:token" element={<Invited />} />
        <Route path="*" element={<SignedIn />} />
      </Routes>
    </Suspense>
  )
}

// Whoever has to sign in does so first, and goes on to where they wanted.
function SignedIn() {
  const known = useQuery(me())
  const { pathname, search } = useLocation()
  if (!known.data) return <Unanswered asked={[known]} what="who is here" />
  if (known.data.needs_sign_in && known.data.person === null)
    return <Navigate to={`/sign-in?to=${encodeURIComponent(pathname + search)}`} replace />
  return <Workbench mayMake={rightsIn(known.data, '').make} />
}

function Workbench({ mayMake }: { mayMake: boolean }) {
  const { isHeard } = useEvents()
  const { pathname } = useLocation()
  const [atFirst, setAtFirst] = useState(false)
  const all = useQuery(collections())
  if (!all.data) return <Unanswered asked={[all]} what="the collections" />
  if (all.data.length === 0 && !mayMake) return <OwnTasks />
  // The wizard stays until it says itself where to go: its collection is there a moment before.
  if (all.data.length === 0 || (atFirst && pathname === '/')) return <FirstImport onShown={() => setAtFirst(true)} />
  const first = firstShown(all.data, lastUsed())
  if (!first) return null
  return (
    <Routes>
      <Route path="/:collection/:place" element={<Place all={all.data} isHeard={isHeard} />} />
      <Route path="/:collection" element={<Navigate to="ranking" replace />} />
      <Route path="*" element={<Navigate to={`/${first.name}/ranking`} replace />} />
    </Routes>
  )
}

function FirstImport({ onShown }: { onShown: () => void }) {
  const shown = useEffectEvent(onShown)
  useEffect(() => shown(), [])
  return (
    <main className="mx-auto max-w-[1100px] pt-12">
      <h1 className="px-4 pb-2 text-xl font-semibold">Pale Harbor has no collection yet</h1>
      <p className="quiet px-4 pb-2">Begin with records: anything that people search for.</p>
      <ImportWizard collection={null} />
    </main>
  )
}

function Place({ all, isHeard }: { all: Collection[]; isHeard: boolean }) {
  const { collection: name, place = '' } = useParams()
  const collection = all.find((one) => one.name === name)
  const used = collection?.name
  useEffect(() => {
    if (used !== undefined) rememberUsed(used)
  }, [used])
  const View = isPlace(place) ? SHOWN[place] : null
  if (!collection) {
    return (
      <Empty title={`There is no collection “${name}”`}>
        There are: {all.map((one) => one.name).join(', ')}.{' '}
        <a className="link" href={here('/')}>
          Go to the first
        </a>
      </Empty>
    )
  }
  if (!View) return <Navigate to={`/${collection.name}/ranking`} replace />
  return (
    <Shell collection={collection} all={all} place={place} isHeard={isHeard}>
      <Boundary key={`${collection.name} ${place}`}>
        <Suspense fallback={<Loading what="this place" />}>
          <View collection={collection} />
        </Suspense>
      </Boundary>
    </Shell>
  )
}

import { useQuery } from '@tanstack/react-query'
import { useEffect, useEffectEvent, useState } from 'react'
import { Navigate, Route, Routes, useLocation, useParams } from 'react-router'
import { collections, type Collection } from './api/queries'
import { Empty } from './parts/notes'
import { Chains } from './places/chains/chains'
import { Judge } from './places/judge/judge'
import { Judging } from './places/judging/judging'
import { Measures } from './places/measuring/measuring'
import { Ranking } from './places/ranking/ranking'
import { ImportWizard } from './places/imports/import-wizard'
import { Records } from './places/records/records'
import { Spaces } from './places/spaces/spaces'
import { isPlace, type PlaceName } from './shell/places'
import { Shell } from './shell/shell'
import { useEvents } from './shell/use-events'
import { lastUsed, rememberUsed } from './shell/last-used'
import { firstShown } from './thinking/collections'
import { Unanswered } from './parts/answered'

const SHOWN: Record<PlaceName, (props: { collection: Collection }) => React.ReactNode> = {
  records: Records,
  ranking: Ranking,
  chains: Chains,
  spaces: Spaces,
  judging: Judging,
  measures: Measures,
}

export function App() {
  return (
    <Routes>
      {/* A judge comes by a link and sees nothing else. */}
      <Route path="/judge/:token" element={<Judge />} />
      <Route path="*" element={<Workbench />} />
    </Routes>
  )
}

function Workbench() {
  const { isHeard } = useEvents()
  const { pathname } = useLocation()
  const [atFirst, setAtFirst] = useState(false)
  const all = useQuery(collections())
  if (!all.data) return <Unanswered asked={[all]} what="the collections" />
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
        <a className="link" href="/">
          Go to the first
        </a>
      </Empty>
    )
  }
  if (!View) return <Navigate to={`/${collection.name}/ranking`} replace />
  return (
    <Shell collection={collection} all={all} place={place} isHeard={isHeard}>
      <View key={collection.name} collection={collection} />
    </Shell>
  )
}

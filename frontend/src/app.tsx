import { useQuery } from '@tanstack/react-query'
import { Navigate, Route, Routes, useParams } from 'react-router'
import { collections, type Collection } from './api/queries'
import { Empty, Loading, ProblemNote } from './parts/notes'
import { Chains } from './places/chains/chains'
import { Measures } from './places/measures/measures'
import { Ranking } from './places/ranking/ranking'
import { Shell } from './shell/shell'

const PLACES: Record<string, (props: { collection: Collection }) => React.ReactNode> = {
  ranking: Ranking,
  chains: Chains,
  measures: Measures,
}

export function App() {
  const all = useQuery(collections())
  if (all.isPending) return <Loading what="the collections" />
  if (all.isError) return <ProblemNote error={all.error} />
  const first = all.data.find((collection) => collection.default_ranker) ?? all.data[0]
  if (!first) {
    return (
      <Empty title="There is no collection yet">
        Load one from the command line: <code>./paleharbor load FILE --collection NAME --key FIELD</code>
      </Empty>
    )
  }
  return (
    <Routes>
      <Route path="/:collection/:place" element={<Place all={all.data} />} />
      <Route path="/:collection" element={<Navigate to="ranking" replace />} />
      <Route path="*" element={<Navigate to={`/${first.name}/ranking`} replace />} />
    </Routes>
  )
}

function Place({ all }: { all: Collection[] }) {
  const { collection: name, place = '' } = useParams()
  const collection = all.find((one) => one.name === name)
  const View = PLACES[place]
  if (!collection) {
    return (
      <Empty title={`There is no collection “${name}”`}>
        There are: {all.map((one) => one.name).join(', ')}. <a className="link" href="/">Go to the first</a>
      </Empty>
    )
  }
  if (!View) return <Navigate to={`/${collection.name}/ranking`} replace />
  return (
    <Shell collection={collection} all={all} place={place}>
      <View key={collection.name} collection={collection} />
    </Shell>
  )
}

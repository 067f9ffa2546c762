// What corrections do to a judged set, and to words of the collection that were typed badly.
import { queryOptions } from '@tanstack/react-query'
import { answer, server, type Schemas } from './client'
import { keptKey } from './keeping'
import { revisionsOf, type Collection, type RankerChoice } from './queries'

export type DidYouMean = Schemas['DidYouMean']
export type CorrectionsMeasured = Schemas['CorrectionsMeasured']

const MADE_UP = 200

export const correctionsMeasured = (collection: Collection, set: string | null, ranker: RankerChoice) =>
  queryOptions({
    ...keptKey(
      ['measuring', 'corrections', collection.name, set, ranker, set === null ? null : revisionsOf(collection, set)],
      4,
    ),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/corrections/measured', {
          params: { path: { collection: collection.name } },
          body: { ranker, judged_set: set, made_up: MADE_UP, seed: 0 },
          signal,
        }),
      ),
    // It takes seconds, and is the same as long as nothing changes.
    staleTime: Infinity,
  })

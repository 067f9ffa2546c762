// Quality over time: every kept version, and the checks that were made.
import { queryOptions } from '@tanstack/react-query'
import { answer, server, type Schemas } from './client'
import { keptKey } from './keeping'
import { HOW, revisionsOf, type Collection, type How } from './queries'

export type Quality = Schemas['QualityTold']
export type VersionQuality = Schemas['VersionQuality']
export type Check = Schemas['CheckTold']

export const qualityOverTime = (collection: Collection, set: string, measure: string, how: Partial<How>) =>
  queryOptions({
    ...keptKey(['measuring', 'quality', collection.name, set, measure, how, revisionsOf(collection, set)], 4, 5, 6),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/judged/{name}/quality', {
          params: { path: { collection: collection.name, name: set } },
          body: { measure, how: { ...HOW, ...how } },
          signal,
        }),
      ),
  })

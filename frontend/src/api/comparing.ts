// Rankers compared, outside rankers among them: key and request together.
import { queryOptions, skipToken } from '@tanstack/react-query'
import { answer, done, server, type Schemas } from './client'
import { revisionsOf, type Collection, type How } from './queries'
import { renewVerdicts } from './subjects'
import { keptKey } from './keeping'

export type Side = Schemas['SideModel']
export type Overview = Schemas['Overview']
export type HeadToHead = Schemas['HeadToHead']
export type OwnerPage = Schemas['OwnerPageAnswer']
export type Outside = Schemas['OutsideTold']

export const overview = (collection: Collection, set: string, sides: Side[], measures: string[], how: How) =>
  queryOptions({
    ...keptKey(
      ['measuring', 'overview', collection.name, set, sides, measures, how, revisionsOf(collection, set)],
      ...[4, 5, 6, 7],
    ),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/judged/{name}/overview', {
          params: { path: { collection: collection.name, name: set } },
          body: { sides, measures, how },
          signal,
        }),
      ),
    retry: false,
  })

export type Pair = { first: Side; second: Side; measure: string; how: How }

// Whose queries, and of which part; by another measure or rule the former answer may stand a moment.
const sidesOf = (pair: Pair | null) => pair && { first: pair.first, second: pair.second, part: pair.how.part }
const waysOf = (pair: Pair | null) => pair && { measure: pair.measure, how: pair.how }

// Two rankers head to head; nothing is asked before there are two.
export const compared = (collection: string, set: string, pair: Pair | null) =>
  queryOptions({
    ...keptKey(['measuring', 'compared', collection, set, sidesOf(pair), waysOf(pair)], 5),
    queryFn:
      pair === null
        ? skipToken
        : async ({ signal, client }) => {
            const found = await answer(
              server.POST('/api/collections/{collection}/judged/{name}/compare', {
                params: { path: { collection, name: set } },
                body: pair,
                signal,
              }),
            )
            // What the locked queries said belongs to every verdict over the same two, and stands in the diary.
            if (pair.how.part !== 'open') void renewVerdicts(client, collection)
            return found
          },
    retry: false,
  })

export const ownerPage = (collection: string, set: string, pair: Pair | null) =>
  queryOptions({
    ...keptKey(['measuring', 'owner page', collection, set, sidesOf(pair), waysOf(pair)], 5),
    queryFn:
      pair === null
        ? skipToken
        : ({ signal }) =>
            answer(
              server.POST('/api/collections/{collection}/judged/{name}/owner-page', {
                params: { path: { collection, name: set } },
                body: pair,
                signal,
              }),
            ),
    retry: false,
  })

export const outsideRankers = (collection: string) =>
  queryOptions({
    queryKey: ['measuring', 'outside', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/outside', { params: { path: { collection } }, signal })),
  })

export const putService = (
  collection: string,
  name: string,
  document: Record<string, unknown>,
  secrets: Record<string, string>,
) =>
  answer(
    server.PUT('/api/collections/{collection}/outside/{name}', {
      params: { path: { collection, name } },
      body: { document, secrets },
    }),
  )

export const bringRun = (collection: string, name: string, judged_set: string, file: string, text: string) =>
  answer(
    server.PUT('/api/collections/{collection}/outside/{name}/run', {
      params: { path: { collection, name } },
      body: { judged_set, file, text },
    }),
  )

export const askOutside = (collection: string, name: string, judged_set: string) =>
  answer(
    server.POST('/api/collections/{collection}/outside/{name}/ask', {
      params: { path: { collection, name } },
      body: { judged_set },
    }),
  )

export const cancelAsking = (collection: string, name: string) =>
  answer(server.POST('/api/collections/{collection}/outside/{name}/cancel', { params: { path: { collection, name } } }))

export const dropOutside = (collection: string, name: string) =>
  done(server.DELETE('/api/collections/{collection}/outside/{name}', { params: { path: { collection, name } } }))

// Rankers compared, outside rankers among them: key and request together.
import { keepPreviousData, queryOptions, skipToken } from '@tanstack/react-query'
import { answer, done, server, type Schemas } from './client'
import type { How } from './queries'
import { renewVerdicts } from './subjects'

export type Side = Schemas['SideModel']
export type Overview = Schemas['Overview']
export type HeadToHead = Schemas['HeadToHead']
export type OwnerPage = Schemas['OwnerPageAnswer']
export type Outside = Schemas['OutsideTold']

export const overview = (collection: string, set: string, sides: Side[], measures: string[], how: How) =>
  queryOptions({
    queryKey: ['measuring', 'overview', collection, set, sides, measures, how],
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/judged/{name}/overview', {
          params: { path: { collection, name: set } },
          body: { sides, measures, how },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  })

export type Pair = { first: Side; second: Side; measure: string; how: How }

// Two rankers head to head; nothing is asked before there are two.
export const compared = (collection: string, set: string, pair: Pair | null) =>
  queryOptions({
    queryKey: ['measuring', 'compared', collection, set, pair],
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
    placeholderData: keepPreviousData,
    retry: false,
  })

export const ownerPage = (collection: string, set: string, pair: Pair | null) =>
  queryOptions({
    queryKey: ['measuring', 'owner page', collection, set, pair],
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
    placeholderData: keepPreviousData,
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

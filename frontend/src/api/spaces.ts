// Spaces, blended lists and their sides: key and request together.
import { queryOptions } from '@tanstack/react-query'
import { answer, done, server, type Schemas } from './client'
import { revisionsOf, type Collection, type Filter, type RankerChoice } from './queries'
import { upload } from './records'
import { keptKey } from './keeping'

export type Space = Schemas['SpaceTold']
export type SpaceDocument = Schemas['SpaceDocument']
export type Wanted = Schemas['WantedModel']
export type Lists = Schemas['ListsFound']
export type Sides = Schemas['SidesFound']
export type SpaceMap = Schemas['SpaceMap']

export const spaces = (collection: string) =>
  queryOptions({
    queryKey: ['spaces', 'spaces', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/spaces', { params: { path: { collection } }, signal })),
  })

export const makeSpace = (collection: string, name: string, document: SpaceDocument) =>
  answer(
    server.PUT('/api/collections/{collection}/spaces/{name}', {
      params: { path: { collection, name } },
      body: { document },
    }),
  )

export const fillSpace = (collection: string, name: string, anew = false) =>
  answer(
    server.POST('/api/collections/{collection}/spaces/{name}/fill', {
      params: { path: { collection, name } },
      body: { anew },
    }),
  )

export const cancelFilling = (collection: string, name: string) =>
  answer(server.POST('/api/collections/{collection}/spaces/{name}/cancel', { params: { path: { collection, name } } }))

export const dropSpace = (collection: string, name: string) =>
  done(server.DELETE('/api/collections/{collection}/spaces/{name}', { params: { path: { collection, name } } }))

export const costOf = (collection: string, name: string) =>
  queryOptions({
    queryKey: ['spaces', 'cost', collection, name],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{collection}/spaces/{name}/cost', {
          params: { path: { collection, name } },
          signal,
        }),
      ),
    enabled: false,
    retry: false,
    gcTime: 0,
  })

export async function bringVectors(
  collection: string,
  name: string,
  about: 'record' | 'query',
  vectors: File,
  names: File,
) {
  const [array, rows] = await Promise.all([upload(vectors, () => {}), upload(names, () => {})])
  return answer(
    server.POST('/api/collections/{collection}/spaces/{name}/brought', {
      params: { path: { collection, name } },
      body: { about, vectors: array.upload, names: rows.upload },
    }),
  )
}

export const nearest = (collection: string, space: string, wanted: Wanted, top = 10, state = 0) =>
  queryOptions({
    ...keptKey(['spaces', 'nearest', collection, space, wanted, top, state], 5, 6),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/spaces/{name}/nearest', {
          params: { path: { collection, name: space } },
          body: { ...wanted, top, filters: [] },
          signal,
        }),
      ),
    retry: false,
  })

export const spaceMap = (collection: string, space: string, wanted: Wanted | null, state = 0) =>
  queryOptions({
    ...keptKey(['spaces', 'map', collection, space, wanted, state], 5),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/spaces/{name}/map', {
          params: { path: { collection, name: space } },
          body: { wanted },
          signal,
        }),
      ),
    retry: false,
  })

export const lists = (
  collection: string,
  query: string,
  ranker: RankerChoice,
  filters: Filter[],
  language: string | null,
  top = 20,
) =>
  queryOptions({
    ...keptKey(['lists', 'lists', collection, query, ranker, filters, language, top], 4, 5),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/lists', {
          params: { path: { collection } },
          body: { query, ranker, filters, language, top, sort: [], typed: false, as_said: false },
          signal,
        }),
      ),
    retry: false,
  })

export const sides = (collection: Collection, set: string, ranker: RankerChoice) =>
  queryOptions({
    ...keptKey(['measuring', 'sides', collection.name, set, ranker, revisionsOf(collection, set)], 4, 5),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/judged/{name}/sides', {
          params: { path: { collection: collection.name, name: set } },
          body: { ranker, measure: 'ndcg@10' },
          signal,
        }),
      ),
    retry: false,
  })

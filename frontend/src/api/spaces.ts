// Spaces, blended lists and their sides: key and request together.
import { keepPreviousData, queryOptions } from '@tanstack/react-query'
import { get, send, upload, type Schemas } from './client'
import type { Filter, RankerChoice } from './queries'

export type Space = Schemas['SpaceTold']
export type SpaceDocument = Schemas['SpaceDocument']
export type Wanted = Schemas['WantedModel']
export type Lists = Schemas['ListsFound']
export type Sides = Schemas['SidesFound']
export type SpaceMap = Schemas['SpaceMap']

const at = (collection: string, rest: string) => `/collections/${encodeURIComponent(collection)}${rest}`
const of = (collection: string, space: string, rest = '') =>
  at(collection, `/spaces/${encodeURIComponent(space)}${rest}`)

export const spaces = (collection: string) =>
  queryOptions({
    queryKey: ['spaces', collection],
    queryFn: ({ signal }) => get<Space[]>(at(collection, '/spaces'), signal),
  })

export const makeSpace = (collection: string, name: string, document: SpaceDocument) =>
  send<Space>('PUT', of(collection, name), { document })

export const fillSpace = (collection: string, name: string, anew = false) =>
  send<Space>('POST', of(collection, name, '/fill'), { anew })

export const cancelFilling = (collection: string, name: string) =>
  send<Space>('POST', of(collection, name, '/cancel'), {})

export const dropSpace = (collection: string, name: string) => send<null>('DELETE', of(collection, name), {})

export const costOf = (collection: string, name: string) =>
  queryOptions({
    queryKey: ['cost', collection, name],
    queryFn: ({ signal }) => get<Schemas['Cost']>(of(collection, name, '/cost'), signal),
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
  const kept = await Promise.all(
    [vectors, names].map((file) =>
      upload<Schemas['UploadModel']>(`/uploads?name=${encodeURIComponent(file.name)}`, file, () => {}),
    ),
  )
  return send<Schemas['BringAnswer']>('POST', of(collection, name, '/brought'), {
    about,
    vectors: kept[0]?.upload,
    names: kept[1]?.upload,
  })
}

export const nearest = (collection: string, space: string, wanted: Wanted, top = 10, state = 0) =>
  queryOptions({
    queryKey: ['nearest', collection, space, wanted, top, state],
    queryFn: ({ signal }) =>
      send<Schemas['Neighbour'][]>('POST', of(collection, space, '/nearest'), { ...wanted, top }, signal),
    placeholderData: keepPreviousData,
    retry: false,
  })

export const spaceMap = (collection: string, space: string, wanted: Wanted | null, state = 0) =>
  queryOptions({
    queryKey: ['map', collection, space, wanted, state],
    queryFn: ({ signal }) => send<SpaceMap>('POST', of(collection, space, '/map'), { wanted }, signal),
    placeholderData: keepPreviousData,
    retry: false,
  })

export const lists = (collection: string, query: string, ranker: RankerChoice, filters: Filter[], top = 20) =>
  queryOptions({
    queryKey: ['lists', collection, query, ranker, filters, top],
    queryFn: ({ signal }) => send<Lists>('POST', at(collection, '/lists'), { query, ranker, filters, top }, signal),
    placeholderData: keepPreviousData,
    retry: false,
  })

export const sides = (collection: string, set: string, ranker: RankerChoice) =>
  queryOptions({
    queryKey: ['sides', collection, set, ranker],
    queryFn: ({ signal }) =>
      send<Sides>(
        'POST',
        at(collection, `/judged/${encodeURIComponent(set)}/sides`),
        { ranker, measure: 'ndcg@10' },
        signal,
      ),
    placeholderData: keepPreviousData,
    retry: false,
  })

// Rankers compared, outside rankers among them: key and request together.
import { keepPreviousData, queryOptions } from '@tanstack/react-query'
import { get, send, type Schemas } from './client'
import type { How } from './queries'

export type Side = Schemas['SideModel']
export type Overview = Schemas['Overview']
export type HeadToHead = Schemas['HeadToHead']
export type OwnerPage = Schemas['OwnerPageAnswer']
export type Outside = Schemas['OutsideModel']

const at = (collection: string, rest: string) => `/collections/${encodeURIComponent(collection)}${rest}`
const of = (collection: string, set: string, rest: string) =>
  at(collection, `/judged/${encodeURIComponent(set)}${rest}`)

export const overview = (collection: string, set: string, sides: Side[], measures: string[], how: How) =>
  queryOptions({
    queryKey: ['overview', collection, set, sides, measures, how],
    queryFn: ({ signal }) => send<Overview>('POST', of(collection, set, '/overview'), { sides, measures, how }, signal),
    placeholderData: keepPreviousData,
    retry: false,
  })

export type Pair = { first: Side; second: Side; measure: string; how: How }

export const compared = (collection: string, set: string, pair: Pair) =>
  queryOptions({
    queryKey: ['compared', collection, set, pair],
    queryFn: ({ signal }) => send<HeadToHead>('POST', of(collection, set, '/compare'), pair, signal),
    placeholderData: keepPreviousData,
    retry: false,
  })

export const ownerPage = (collection: string, set: string, pair: Pair) =>
  queryOptions({
    queryKey: ['owner page', collection, set, pair],
    queryFn: ({ signal }) => send<OwnerPage>('POST', of(collection, set, '/owner-page'), pair, signal),
    placeholderData: keepPreviousData,
    retry: false,
  })

export const outsideRankers = (collection: string) =>
  queryOptions({
    queryKey: ['outside', collection],
    queryFn: ({ signal }) => get<Outside[]>(at(collection, '/outside'), signal),
  })

const outside = (collection: string, name: string, rest = '') =>
  at(collection, `/outside/${encodeURIComponent(name)}${rest}`)

export const putService = (
  collection: string,
  name: string,
  document: Record<string, unknown>,
  secrets: Record<string, string>,
) => send<Outside[]>('PUT', outside(collection, name), { document, secrets })

export const bringRun = (collection: string, name: string, judged_set: string, file: string, text: string) =>
  send<Schemas['RunFileAnswer']>('PUT', outside(collection, name, '/run'), { judged_set, file, text })

export const askOutside = (collection: string, name: string, judged_set: string) =>
  send<Outside[]>('POST', outside(collection, name, '/ask'), { judged_set })

export const cancelAsking = (collection: string, name: string) =>
  send<Outside[]>('POST', outside(collection, name, '/cancel'), {})

export const dropOutside = (collection: string, name: string) => send<null>('DELETE', outside(collection, name), {})

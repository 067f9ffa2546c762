// Live databases that a collection is kept in step with: connections, drafts, looks, and how it stands.
import { queryOptions } from '@tanstack/react-query'
import { answer, done, server, type Schemas } from './client'

export type Connection = Schemas['ConnectionTold']
export type Catalogue = Schemas['Catalogue']
export type JoinDrafted = Schemas['JoinDrafted']
export type Looked = Schemas['Looked']
export type WayOffered = Schemas['WayOffered']
export type FollowedTable = Schemas['FollowedTable']
export type Following = Schemas['FollowingTold']
export type Ended = Schemas['EndedFollowing']
export type UnfitPage = Schemas['UnfitPage']
export type Saying = Schemas['LookRequest']

const of = (name: string) => ({ path: { name } })
const by = (name: string, connection: string) => ({ path: { name, connection } })

export const following = (collection: string) =>
  queryOptions({
    queryKey: ['following', 'following', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{name}/following', { params: of(collection), signal })),
  })

export const connections = (collection: string) =>
  queryOptions({
    queryKey: ['following', 'connections', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{name}/connections', { params: of(collection), signal })),
  })

export const catalogue = (collection: string, connection: string) =>
  queryOptions({
    queryKey: ['following', 'catalogue', collection, connection],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{name}/connections/{connection}/catalogue', {
          params: by(collection, connection),
          signal,
        }),
      ),
    retry: false,
  })

export const unfit = (collection: string) =>
  queryOptions({
    queryKey: ['following', 'unfit', collection],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{name}/following/unfit', {
          params: { ...of(collection), query: { count: 100 } },
          signal,
        }),
      ),
  })

export const putConnection = (
  collection: string,
  connection: string,
  document: Record<string, unknown>,
  password: string,
) =>
  answer(
    server.PUT('/api/collections/{name}/connections/{connection}', {
      params: by(collection, connection),
      body: { document, ...(password ? { password } : {}) },
    }),
  )

export const dropConnection = (collection: string, connection: string) =>
  done(server.DELETE('/api/collections/{name}/connections/{connection}', { params: by(collection, connection) }))

export const tryConnection = (collection: string, connection: string) =>
  answer(server.POST('/api/collections/{name}/connections/{connection}/try', { params: by(collection, connection) }))

export const draftQuery = (collection: string, connection: string, table: string, joins: string[] | null) =>
  answer(
    server.POST('/api/collections/{name}/connections/{connection}/draft', {
      params: by(collection, connection),
      body: { table, joins },
    }),
  )

export const lookAtQuery = (collection: string, connection: string, body: Saying) =>
  answer(
    server.POST('/api/collections/{name}/connections/{connection}/look', {
      params: by(collection, connection),
      body,
    }),
  )

export const follow = (collection: string, document: Record<string, unknown>) =>
  answer(server.PUT('/api/collections/{name}/following', { params: of(collection), body: { document } }))

export const pauseFollowing = (collection: string) =>
  answer(server.POST('/api/collections/{name}/following/pause', { params: of(collection) }))

export const goOnFollowing = (collection: string) =>
  answer(server.POST('/api/collections/{name}/following/go-on', { params: of(collection) }))

export const compareWithSource = (collection: string, takeColumns: boolean) =>
  answer(
    server.POST('/api/collections/{name}/following/compare', {
      params: of(collection),
      body: { take_columns: takeColumns },
    }),
  )

export const agreeToFollowing = (collection: string, deletions: number) =>
  answer(server.POST('/api/collections/{name}/following/agree', { params: of(collection), body: { deletions } }))

export const endFollowing = (collection: string) =>
  answer(server.DELETE('/api/collections/{name}/following', { params: of(collection) }))

// Drafts that nobody kept yet: the server keeps them as they change.
import { queryOptions } from '@tanstack/react-query'
import { answer, done, server, type Schemas } from './client'
import type { RankerDocument } from './queries'

export type KeptDraft = Schemas['DraftTold']

export const drafts = (collection: string) =>
  queryOptions({
    queryKey: ['rankers', 'drafts', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/drafts', { params: { path: { collection } }, signal })),
  })

// keepalive: such a request outlives the window that sent it.
export const beginDraft = (collection: string, ranker: string, version: number, document: RankerDocument) =>
  answer(
    server.POST('/api/collections/{collection}/drafts', {
      params: { path: { collection } },
      body: { ranker, version, document },
      keepalive: true,
    }),
  )
// known: the revision that this page knows of; refused where somebody else changed it since.
export const goOnWithDraft = (collection: string, id: number, document: RankerDocument, known: number) =>
  answer(
    server.PUT('/api/collections/{collection}/drafts/{draft_id}', {
      params: { path: { collection, draft_id: id } },
      body: { document, known },
      keepalive: true,
    }),
  )
export const discardDraft = (collection: string, id: number) =>
  done(
    server.DELETE('/api/collections/{collection}/drafts/{draft_id}', {
      params: { path: { collection, draft_id: id } },
    }),
  )

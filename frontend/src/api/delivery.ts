// What the world sees: what is live, keys, what visitors asked and did.
import { queryOptions } from '@tanstack/react-query'
import { answer, done, server, type Schemas } from './client'
import { withLinks } from './judging'
import type { paths } from './schema.gen'

export type Published = Schemas['PublishedTold']
export type Publication = Schemas['Publication']
export type DeliveryKey = Schemas['DeliveryKey']
export type VisitorTerms = Schemas['VisitorTerms']
export type PastTold = Schemas['PastTold']
export type PastAsked = Schemas['PastAsked']
export type PastDay = Schemas['PastDay']
type PastQuery = NonNullable<paths['/api/collections/{collection}/delivery/past']['get']['parameters']['query']>
export type PastOrder = NonNullable<PastQuery['order']>
export type Rewriting = Schemas['Rewriting']
export type SuggestedGrade = Schemas['SuggestedGrade']

const of = (collection: string) => ({ path: { collection } })

export const published = (collection: string) =>
  queryOptions({
    queryKey: ['delivery', 'published', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/delivery', { params: of(collection), signal })),
  })

export const publishingChecked = (collection: string, ranker: string, version: number) =>
  queryOptions({
    queryKey: ['delivery', 'checked', collection, ranker, version],
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/delivery/checked', {
          params: of(collection),
          body: { ranker, version },
          signal,
        }),
      ),
  })

export const publish = (collection: string, body: Schemas['PublishRequest']) =>
  answer(server.POST('/api/collections/{collection}/delivery/live', { params: of(collection), body }))

export const goBack = (collection: string, note = '') =>
  answer(server.POST('/api/collections/{collection}/delivery/back', { params: of(collection), body: { note } }))

export const offerCandidate = (collection: string, body: Schemas['CandidateRequest']) =>
  answer(server.PUT('/api/collections/{collection}/delivery/candidate', { params: of(collection), body }))

export const endCandidate = (collection: string, note = '') =>
  answer(
    server.POST('/api/collections/{collection}/delivery/candidate/ended', { params: of(collection), body: { note } }),
  )

export const candidateStanding = (collection: string) =>
  queryOptions({
    queryKey: ['delivery', 'candidate', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/delivery/candidate', { params: of(collection), signal })),
  })

export const putSettings = (collection: string, body: Schemas['DeliverySettingsModel']) =>
  answer(server.PUT('/api/collections/{collection}/delivery/settings', { params: of(collection), body }))

export const deliveryKeys = (collection: string) =>
  queryOptions({
    queryKey: ['delivery', 'keys', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/delivery/keys', { params: of(collection), signal })),
  })

export const makeVisitorKey = (collection: string, body: Schemas['VisitorKeyRequest']) =>
  answer(server.POST('/api/collections/{collection}/delivery/keys/visitors', { params: of(collection), body }))

export const makeProgramKey = (collection: string, body: Schemas['ProgramKeyRequest']) =>
  answer(server.POST('/api/collections/{collection}/delivery/keys/programs', { params: of(collection), body }))

export const putVisitorKey = (collection: string, key_id: number, body: Schemas['VisitorKeyTerms']) =>
  done(
    server.PUT('/api/collections/{collection}/delivery/keys/{key_id}', {
      params: { path: { collection, key_id } },
      body,
    }),
  )

export const revokeKey = (collection: string, key_id: number) =>
  done(
    server.DELETE('/api/collections/{collection}/delivery/keys/{key_id}', { params: { path: { collection, key_id } } }),
  )

export const askedByVisitors = (collection: string, order: PastOrder, days: number) =>
  queryOptions({
    queryKey: ['delivery', 'past', collection, order, days],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{collection}/delivery/past', {
          params: { path: { collection }, query: { order, days, count: 200 } },
          signal,
        }),
      ),
  })

export const rewrittenByVisitors = (collection: string, days: number) =>
  queryOptions({
    queryKey: ['delivery', 'rewritings', collection, days],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{collection}/delivery/rewritings', {
          params: { path: { collection }, query: { days } },
          signal,
        }),
      ),
  })

export const gradesByClicks = (collection: string, days: number) =>
  queryOptions({
    queryKey: ['delivery', 'grades', collection, days],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{collection}/delivery/suggested-grades', {
          params: { path: { collection }, query: { days } },
          signal,
        }),
      ),
  })

export const loadLog = (collection: string, source: string, text: string) =>
  answer(
    server.POST('/api/collections/{collection}/delivery/past/log', { params: of(collection), body: { source, text } }),
  )

export const offerAsked = (collection: string, body: Schemas['OfferRequest']) =>
  answer(server.POST('/api/collections/{collection}/delivery/past/offered', { params: of(collection), body }))

export const confirmClicks = async (collection: string, body: Schemas['ConfirmingRequest']) =>
  withLinks(
    await answer(
      server.POST('/api/collections/{collection}/delivery/suggested-grades/task', { params: of(collection), body }),
    ),
  )

export const sampleToSet = (collection: string, body: Schemas['SampleRequest']) =>
  answer(server.POST('/api/collections/{collection}/delivery/sample', { params: of(collection), body }))

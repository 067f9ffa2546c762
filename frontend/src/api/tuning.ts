// Tunings of rankers: key and request together.
import { queryOptions } from '@tanstack/react-query'
import { answer, done, server, type Schemas } from './client'
import { revisionsOf, type Collection, type RankerChoice } from './queries'
import { keptKey } from './keeping'

export type Tuning = Schemas['TuningTold']
export type TuningReport = Schemas['TuningReport']
export type KnobReport = Schemas['KnobReport']
export type Surface = Schemas['SurfaceReport']
export type KnobOffer = Schemas['KnobOffer']
export type TuningRequest = Schemas['TuningPlan-Input']
export type Ledger = Schemas['LedgerTold']
export type LedgerLine = Schemas['LedgerLine']
export type Way = TuningRequest['way']

export const tunings = (collection: string) =>
  queryOptions({
    queryKey: ['tuning', 'tunings', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/tunings', { params: { path: { collection } }, signal })),
  })

export const tuning = (collection: string, number: number) =>
  queryOptions({
    queryKey: ['tuning', 'tuning', collection, String(number)],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{collection}/tunings/{number}', {
          params: { path: { collection, number } },
          signal,
        }),
      ),
    retry: false,
  })

// The knobs that a ranker is usually tuned by.
export const knobsToTune = (collection: Collection, ranker: RankerChoice) =>
  queryOptions({
    ...keptKey(['rankers', 'knobs to tune', collection.name, ranker, revisionsOf(collection, '')], 3, 4),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/tuning-knobs', {
          params: { path: { collection: collection.name } },
          body: ranker,
          signal,
        }),
      ),
    retry: false,
  })

export const ledgers = (collection: string) =>
  queryOptions({
    queryKey: ['tuning', 'ledgers', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/ledgers', { params: { path: { collection } }, signal })),
  })

export type Growth = Schemas['GrowthTold']
export type AtSize = Schemas['AtSize']

export const growths = (collection: string) =>
  queryOptions({
    queryKey: ['tuning', 'growth', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/growth', { params: { path: { collection } }, signal })),
  })

export const beginGrowth = (collection: string, name: string, body: Schemas['RankerPlan']) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/growth', { params: { path: { collection, name } }, body }),
  )

export const cancelGrowth = (collection: string, number: number) =>
  answer(
    server.POST('/api/collections/{collection}/growth/{number}/cancel', { params: { path: { collection, number } } }),
  )

export const beginLedger = (collection: string, name: string, body: Schemas['RankerPlan']) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/ledgers', {
      params: { path: { collection, name } },
      body,
    }),
  )

export const cancelLedger = (collection: string, number: number) =>
  answer(server.POST('/api/collections/{collection}/ledgers/{number}/cancel', at(collection, number)))

export type Remedies = Schemas['RemediesTold']
export type RemedyGroup = Schemas['RemedyGroup']
export type Tried = Schemas['TriedChange']

export const remedies = (collection: string) =>
  queryOptions({
    queryKey: ['tuning', 'remedies', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/remedies', { params: { path: { collection } }, signal })),
  })

export const beginRemedies = (collection: string, name: string, body: Schemas['RankerPlan']) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/remedies', {
      params: { path: { collection, name } },
      body,
    }),
  )

export const cancelRemedies = (collection: string, number: number) =>
  answer(server.POST('/api/collections/{collection}/remedies/{number}/cancel', at(collection, number)))

// Queries are made up from the records, and the ranker that the records came with is tuned on them.
export const beginFirstTuning = (collection: string) =>
  answer(server.POST('/api/collections/{collection}/first-tuning', { params: { path: { collection } } }))

// Those that imports asked for, the newest first.
export const firstTunings = (collection: string) =>
  queryOptions({
    queryKey: ['tuning', 'first tunings', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/first-tuning', { params: { path: { collection } }, signal })),
  })

const at = (collection: string, number: number) => ({ params: { path: { collection, number } } })

export const beginTuning = (collection: string, name: string, body: TuningRequest) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/tunings', {
      params: { path: { collection, name } },
      body,
    }),
  )

export const stopTuning = (collection: string, number: number) =>
  answer(server.POST('/api/collections/{collection}/tunings/{number}/stop', at(collection, number)))

export const forgetTuning = (collection: string, number: number) =>
  done(server.DELETE('/api/collections/{collection}/tunings/{number}', at(collection, number)))

// The report as Markdown, once there is one.
export const tuningPage = (collection: string, number: number) =>
  queryOptions({
    queryKey: ['tuning', 'page', collection, String(number)],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/tunings/{number}/page', { ...at(collection, number), signal })),
  })

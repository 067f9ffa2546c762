// Whole suggestions for what is being typed, and the past queries that some of them come from.
import { queryOptions } from '@tanstack/react-query'
import { answer, done, server, type Schemas } from './client'
import { keptKey } from './keeping'
import type { Collection, RankerChoice } from './queries'

export type Completion = Schemas['Completion']
export type Gathering = Schemas['UnderWay']
export type SuggestionsTold = Schemas['SuggestionsTold']
export type BeginsCost = Schemas['BeginsCost']

// While suggestions are gathered they are asked for again, which also says that they are still wanted.
const whileGathering = (told: { gathering: Gathering | null } | undefined) => (told?.gathering ? 500 : false)

export const completionsFor = (collection: Collection, ranker: RankerChoice, typed: string, top: number) =>
  queryOptions({
    // What stood for a letter less is better than nothing, until its successor comes.
    ...keptKey(['lists', 'completions', collection.name, collection.revision, top, ranker, typed], 5, 6),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/completions', {
          params: { path: { collection: collection.name } },
          body: { typed, ranker, language: null, top },
          signal,
        }),
      ),
    refetchInterval: (asked) => whileGathering(asked.state.data),
  })

export const suggestionsTold = (collection: Collection, ranker: RankerChoice) =>
  queryOptions({
    ...keptKey(['lists', 'suggestions', collection.name, collection.revision, ranker], 4),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/suggestions', {
          params: { path: { collection: collection.name } },
          body: ranker,
          signal,
        }),
      ),
    refetchInterval: (asked) => whileGathering(asked.state.data),
  })

export const suggestionsCosts = (collection: Collection, ranker: RankerChoice) =>
  queryOptions({
    queryKey: ['lists', 'suggestions costs', collection.name, collection.revision, ranker],
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/suggestions/costs', {
          params: { path: { collection: collection.name } },
          body: ranker,
          signal,
        }),
      ),
    staleTime: Infinity,
  })

export const pastQueries = (collection: string) =>
  queryOptions({
    queryKey: ['lists', 'past queries', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/past-queries', { params: { path: { collection } }, signal })),
  })

export const loadPastQueries = (collection: string, source: string, text: string) =>
  answer(
    server.PUT('/api/collections/{collection}/past-queries', {
      params: { path: { collection } },
      body: { source, text },
    }),
  )

export const dropPastQueries = (collection: string) =>
  done(server.DELETE('/api/collections/{collection}/past-queries', { params: { path: { collection } } }))

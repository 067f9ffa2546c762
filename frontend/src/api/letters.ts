// Queries typed letter by letter: one that is played, and a judged set.
import { queryOptions } from '@tanstack/react-query'
import { answer, server, type Schemas } from './client'
import { keptKey } from './keeping'
import { revisionsOf, type Collection, type Filter, type RankerChoice } from './queries'

export type LetterPlayed = Schemas['LetterPlayed']
export type SetTyped = Schemas['SetTyped']
export type QueryTyped = Schemas['QueryTyped']

type Played = {
  query: string
  ranker: RankerChoice
  filters: Filter[]
  language: string | null
  // The record that is looked for.
  wanted: string | null
}

export const lettersPlayed = (collection: Collection, played: Played) =>
  queryOptions({
    ...keptKey(
      [
        'lists',
        'letters',
        collection.name,
        collection.revision,
        played.query,
        played.filters,
        played.language,
        played.ranker,
        played.wanted,
      ],
      ...[7, 8],
    ),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/letters', {
          params: { path: { collection: collection.name } },
          body: { ...played, sort: [], typed: true, as_said: false, first: 10 },
          signal,
        }),
      ),
  })

// against: the ranker that it is compared with, where that is another one.
export const lettersOfSet = (
  collection: Collection,
  set: string,
  ranker: RankerChoice,
  against: RankerChoice | null,
  first: number,
) =>
  queryOptions({
    ...keptKey(
      ['measuring', 'letters', collection.name, set, first, ranker, against, revisionsOf(collection, set)],
      ...[5, 6, 7],
    ),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/judged/{name}/letters', {
          params: { path: { collection: collection.name, name: set } },
          body: { ranker, against, first },
          signal,
        }),
      ),
    // It takes seconds, and is the same as long as nothing changes.
    staleTime: Infinity,
  })

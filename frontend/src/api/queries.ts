// What the page asks for: key and request together, for hooks and prefetching alike.
import { queryOptions } from '@tanstack/react-query'
import { answer, server, type Schemas } from './client'
import { keptKey } from './keeping'

export type Collection = Schemas['CollectionTold']
export type RankerDocument = Schemas['RankerDocument']
export type Ranker = Schemas['RankerTold']
export type RankerChoice = Schemas['RankerChoiceModel']
export type SearchAnswer = Schemas['Found']
export type Result = Schemas['Result']
export type WhyAnswer = Schemas['WhyTold']
export type WhyNotAnswer = Schemas['WhyNotTold']
export type Filter = Schemas['FilterDocument']
export type JudgedSet = Schemas['JudgedSetTold']
export type Measurement = Schemas['Measurement']
export type Meeting = Schemas['Meeting']
export type Stage = Schemas['StageModel']
export type RecordAnswer = Schemas['RecordAmongOthers']

export const MEASURES = ['ndcg@10', 'ap', 'rr', 'precision@10', 'recall@100', 'judged@10']

export const collections = () =>
  queryOptions({
    queryKey: ['collections', 'collections'],
    queryFn: ({ signal }) => answer(server.GET('/api/collections', { signal })),
  })

export const stages = () =>
  queryOptions({
    queryKey: ['constants', 'stages'],
    queryFn: ({ signal }) => answer(server.GET('/api/stages', { signal })),
    staleTime: Infinity,
  })

// Every measure there is: one that was added is offered without a word here.
export const offeredMeasures = () =>
  queryOptions({
    queryKey: ['constants', 'measures'],
    queryFn: ({ signal }) => answer(server.GET('/api/measures', { signal })),
    staleTime: Infinity,
  })

export const rankers = (collection: string) =>
  queryOptions({
    queryKey: ['rankers', 'rankers', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/rankers', { params: { path: { collection } }, signal })),
  })

export const savedChains = (collection: string) =>
  queryOptions({
    queryKey: ['chains', 'chains', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/chains', { params: { path: { collection } }, signal })),
  })

export const judgedSet = (collection: string, name: string) =>
  queryOptions({
    queryKey: ['judging', 'judged', collection, name],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{collection}/judged/{name}', { params: { path: { collection, name } }, signal }),
      ),
  })

// What narrows and orders a list beside the query: filters, facets to count, fields to sort by, rows before the page.
export type Narrowing = Partial<
  Pick<Schemas['SearchRequest'], 'filters' | 'sort' | 'facets' | 'skip' | 'language' | 'typed' | 'as_said' | 'passages'>
>

export const search = (
  collection: string,
  query: string,
  ranker: RankerChoice,
  top: number,
  narrowing: Narrowing = {},
) =>
  queryOptions({
    ...keptKey(['lists', 'search', collection, query, ranker, top, narrowing], 4, 5, 6),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/search', {
          params: { path: { collection } },
          body: {
            query,
            ranker,
            top,
            filters: [],
            sort: [],
            facets: [],
            skip: 0,
            typed: false,
            as_said: false,
            offsets: 'code_points',
            ...narrowing,
          },
          signal,
        }),
      ),
  })

// language: of a judged query, that it is measured with too; typed: whether the query is being typed.
type Asking = {
  query: string
  key: string
  ranker: RankerChoice
  filters?: Filter[]
  language: string | null
  typed: boolean
}

export const why = (collection: string, asking: Asking) =>
  queryOptions({
    ...keptKey(
      [
        'lists',
        'why',
        collection,
        asking.query,
        asking.key,
        asking.ranker,
        asking.filters,
        asking.language,
        asking.typed,
      ],
      5,
      6,
    ),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/why', {
          params: { path: { collection } },
          body: { filters: [], sort: [], as_said: false, ...asking },
          signal,
        }),
      ),
  })

export const whyNot = (collection: string, asking: Asking) =>
  queryOptions({
    queryKey: ['lists', 'why not', collection, asking],
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/why-not', {
          params: { path: { collection } },
          body: { filters: [], sort: [], as_said: false, ...asking },
          signal,
        }),
      ),
    retry: false,
  })

// What is different between two rankers, in words.
export const rankerDifferences = (collection: string, before: RankerChoice, after: RankerChoice) =>
  queryOptions({
    ...keptKey(['rankers', 'differences', collection, before, after], 3, 4),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/rankers/differences', {
          params: { path: { collection } },
          body: { before, after },
          signal,
        }),
      ),
  })

// How figures are made: rules for what definitions leave open.
export type How = Schemas['HowModel']

// As the server makes them where nothing is said.
export const HOW: How = {
  ties: 'by_key',
  unjudged: 'off_topic',
  without_relevant: 'zero',
  weighted: false,
  part: 'open',
  bands: false,
}

// Of the collection and of the judged set as they are: a figure of an earlier revision is another figure.
export const revisionsOf = (collection: Collection, set: string) =>
  [collection.revision, collection.judged_revisions[set] ?? 0] as const

export const measured = (
  collection: Collection,
  set: string,
  ranker: RankerChoice,
  measures: string[],
  how: Partial<How> = {},
) =>
  queryOptions({
    ...keptKey(
      ['measuring', 'measured', collection.name, set, ranker, measures, how, revisionsOf(collection, set)],
      ...[4, 5, 6, 7],
    ),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/judged/{name}/measure', {
          params: { path: { collection: collection.name, name: set } },
          body: { ranker, measures, how: { ...HOW, ...how } },
          signal,
        }),
      ),
  })

// The good records that a ranker misses: of the set's open queries, or of one.
export const missed = (
  collection: Collection,
  set: string,
  ranker: RankerChoice,
  depth: number,
  queryId: string | null = null,
) =>
  queryOptions({
    ...keptKey(
      ['measuring', 'missed', collection.name, set, queryId, ranker, depth, revisionsOf(collection, set)],
      ...[5, 6, 7],
    ),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/judged/{name}/missed', {
          params: { path: { collection: collection.name, name: set } },
          body: { ranker, depth, query_ids: queryId === null ? null : [queryId] },
          signal,
        }),
      ),
  })

// Which records came into the first results of one query with the draft, and which went.
export const movedOn = (
  collection: Collection,
  set: string,
  queryId: string | null,
  before: RankerChoice,
  after: RankerChoice,
  depth: number,
) =>
  queryOptions({
    queryKey: ['measuring', 'moved', collection.name, set, queryId, before, after, depth, revisionsOf(collection, set)],
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/judged/{name}/moved', {
          params: { path: { collection: collection.name, name: set } },
          body: { query_id: queryId ?? '', before, after, depth },
          signal,
        }),
      ),
    enabled: queryId !== null,
  })

// The terms around each word of a query.
export type WordAround = Schemas['WordAround']
export const nearWords = (collection: string, asking: Omit<Asking, 'key' | 'typed'>) =>
  queryOptions({
    ...keptKey(['lists', 'near words', collection, asking.query, asking.language, asking.ranker], 5),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/near-words', {
          params: { path: { collection } },
          body: {
            filters: [],
            sort: [],
            facets: [],
            top: 1,
            skip: 0,
            typed: false,
            as_said: false,
            offsets: 'code_points',
            ...asking,
          },
          signal,
        }),
      ),
  })

export const record = (collection: string, key: string | null) =>
  queryOptions({
    queryKey: ['records', 'record', collection, key],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{name}/record', {
          params: { path: { name: collection }, query: key === null ? {} : { key } },
          signal,
        }),
      ),
  })

// What is met of two texts by a turn of their chains; another text is another question.
const chainsOf = (ask: Schemas['MeetRequest']) => ({ ...ask, text: '', query: '' })

export const meeting = (collection: string, ask: Schemas['MeetRequest']) =>
  queryOptions({
    ...keptKey(['chains', 'meeting', collection, ask.text, ask.query, chainsOf(ask)], 5),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/meet', { params: { path: { collection } }, body: ask, signal }),
      ),
  })

// A new version of a kept ranker, its saved chains in the versions that the baseline was kept with.
// name: of another ranker, where it is branched; newest: the newest version of that name that is known of, 0 for none.
export const putRanker = (
  collection: string,
  baseline: Ranker,
  document: RankerDocument,
  as: { name: string; note: string; newest: number; draft: number | null },
) =>
  answer(
    server.PUT('/api/collections/{collection}/rankers/{name}', {
      params: { path: { collection, name: as.name } },
      body: {
        document,
        note: as.note,
        based_on: baseline.version,
        branched_from: as.name === baseline.name ? null : baseline.name,
        newest_known: as.newest,
        draft: as.draft,
      },
    }),
  )

export const putChain = (collection: string, name: string, notation: string) =>
  answer(
    server.PUT('/api/collections/{collection}/chains/{name}', {
      params: { path: { collection, name } },
      body: { notation },
    }),
  )

export const putRankerNote = (collection: string, name: string, version: number, note: string) =>
  answer(
    server.PUT('/api/collections/{collection}/rankers/{name}/{version}/note', {
      params: { path: { collection, name, version } },
      body: { note },
    }),
  )

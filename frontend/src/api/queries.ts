// What the page asks for: key and request together, for hooks and prefetching alike.
import { keepPreviousData, queryOptions } from '@tanstack/react-query'
import { get, send, type Schemas } from './client'

export type Collection = Schemas['CollectionModel']
export type RankerDocument = Schemas['RankerDocument']
export type Ranker = Schemas['RankerModel']
export type RankerChoice = Schemas['RankerChoiceModel']
export type SearchAnswer = Schemas['Found']
export type Result = Schemas['Result']
export type WhyAnswer = Schemas['WhyTold']
export type WhyNotAnswer = Schemas['WhyNotTold']
export type Filter = Schemas['FilterDocument']
export type JudgedSet = Schemas['JudgedSetModel']
export type MeasureAnswer = Schemas['MeasureAnswer']
export type Meeting = Schemas['Meeting']
export type Stage = Schemas['StageModel']
export type RecordAnswer = Schemas['RecordModel']

export const MEASURES = ['ndcg@10', 'ap', 'rr', 'precision@10', 'recall@100', 'judged@10']

const at = (collection: string, rest: string) => `/collections/${encodeURIComponent(collection)}${rest}`

export const collections = () =>
  queryOptions({
    queryKey: ['collections'],
    queryFn: ({ signal }) => get<Collection[]>('/collections', signal),
  })

export const stages = () =>
  queryOptions({
    queryKey: ['stages'],
    queryFn: ({ signal }) => get<Schemas['StageInfo'][]>('/stages', signal),
    staleTime: Infinity,
  })

// Every measure there is: one that was added is offered without a word here.
export const offeredMeasures = () =>
  queryOptions({
    queryKey: ['measures'],
    queryFn: ({ signal }) => get<string[]>('/measures', signal),
    staleTime: Infinity,
  })

export const rankers = (collection: string) =>
  queryOptions({
    queryKey: ['rankers', collection],
    queryFn: ({ signal }) => get<Ranker[]>(at(collection, '/rankers'), signal),
  })

export const savedChains = (collection: string) =>
  queryOptions({
    queryKey: ['chains', collection],
    queryFn: ({ signal }) => get<Schemas['ChainModel'][]>(at(collection, '/chains'), signal),
  })

export const judgedSet = (collection: string, name: string) =>
  queryOptions({
    queryKey: ['judged', collection, name],
    queryFn: ({ signal }) => get<JudgedSet>(at(collection, `/judged/${encodeURIComponent(name)}`), signal),
  })

// What narrows and orders a list beside the query: filters, facets to count, fields to sort by.
export type Narrowing = {
  filters?: Filter[]
  sort?: string[]
  facets?: { field: string; most?: number; step?: number }[]
  skip?: number
}

export const search = (
  collection: string,
  query: string,
  ranker: RankerChoice,
  top: number,
  narrowing: Narrowing = {},
) =>
  queryOptions({
    queryKey: ['search', collection, query, ranker, top, narrowing],
    queryFn: ({ signal }) =>
      send<SearchAnswer>('POST', at(collection, '/search'), { query, ranker, top, ...narrowing }, signal),
    // The old list stays until the new one is here: nothing flickers while a weight is turned.
    placeholderData: keepPreviousData,
  })

type Asking = { query: string; key: string; ranker: RankerChoice; filters?: Filter[] }

export const why = (collection: string, asking: Asking) =>
  queryOptions({
    queryKey: ['why', collection, asking],
    queryFn: ({ signal }) => send<WhyAnswer>('POST', at(collection, '/why'), asking, signal),
    placeholderData: keepPreviousData,
  })

export const whyNot = (collection: string, asking: Asking) =>
  queryOptions({
    queryKey: ['why not', collection, asking],
    queryFn: ({ signal }) => send<WhyNotAnswer>('POST', at(collection, '/why-not'), asking, signal),
    retry: false,
  })

// What is different between two rankers, in words.
export const rankerDifferences = (collection: string, before: RankerChoice, after: RankerChoice) =>
  queryOptions({
    queryKey: ['differences', collection, before, after],
    queryFn: ({ signal }) =>
      send<Schemas['DifferencesAnswer']>('POST', at(collection, '/rankers/differences'), { before, after }, signal),
    placeholderData: keepPreviousData,
  })

// How figures are made: rules for what definitions leave open.
export type How = Schemas['HowModel']

export const measured = (
  collection: string,
  set: string,
  ranker: RankerChoice,
  measures: string[],
  how: Partial<How> = {},
) =>
  queryOptions({
    queryKey: ['measured', collection, set, ranker, measures, how],
    queryFn: ({ signal }) =>
      send<MeasureAnswer>(
        'POST',
        at(collection, `/judged/${encodeURIComponent(set)}/measure`),
        { ranker, measures, how },
        signal,
      ),
    placeholderData: keepPreviousData,
  })

export const record = (collection: string, key: string | null) =>
  queryOptions({
    queryKey: ['record', collection, key],
    queryFn: ({ signal }) =>
      get<RecordAnswer>(at(collection, `/record${key === null ? '' : `?key=${encodeURIComponent(key)}`}`), signal),
    placeholderData: keepPreviousData,
  })

export const meeting = (
  collection: string,
  ask: {
    record_chain: string
    query_chain: string
    text: string
    query: string
    record_off?: number[]
    query_off?: number[]
  },
) =>
  queryOptions({
    queryKey: ['meeting', collection, ask],
    queryFn: ({ signal }) => send<Meeting>('POST', at(collection, '/meet'), ask, signal),
    placeholderData: keepPreviousData,
  })

// A new version of a kept ranker, its saved chains in the versions that the baseline was kept with.
export const putRanker = (collection: string, baseline: Ranker, document: RankerDocument, note: string) =>
  send<Ranker>('PUT', at(collection, `/rankers/${encodeURIComponent(baseline.name)}`), {
    document,
    note,
    based_on: baseline.version,
  })

export const putChain = (collection: string, name: string, notation: string) =>
  send<Schemas['ChainModel']>('PUT', at(collection, `/chains/${encodeURIComponent(name)}`), { notation })

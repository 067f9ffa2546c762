// Samples, consequences and word lists: key and request together.
import { queryOptions } from '@tanstack/react-query'
import { here } from './base'
import { keptKey } from './keeping'
import { answer, sending, server, type Schemas } from './client'

export type Sample = Schemas['Sample']
export type SampleBy = Schemas['SampleBy']
export type ConsequencesAnswer = Schemas['ConsequencesTold']
export type Figures = Schemas['Consequences']
export type Finding = Schemas['Finding']
export type Merge = Schemas['Merge']
export type Reckoning = Schemas['ReckoningTold']
export type WordList = Schemas['ListInUse']
export type WordListText = Schemas['WordListText']
export type SavedChain = Schemas['ChainInUse']

// read_by: the ranker in whose versions saved chains and word lists are read.
export type Asked = {
  field: string
  record_chain: string
  query_chain: string
  query: string
  read_by: Schemas['RankerChoiceModel'] | null
}

export const consequences = (collection: string, ask: Asked) =>
  queryOptions({
    ...keptKey(
      ['chains', 'consequences', collection, ask.field, ask.query, ask.record_chain, ask.query_chain, ask.read_by],
      5,
      6,
      7,
    ),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/consequences', {
          params: { path: { collection } },
          body: ask,
          signal,
        }),
      ),
    retry: false,
  })

export const reckoning = (id: string) =>
  queryOptions({
    queryKey: ['chains', 'reckoning', id],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/reckonings/{reckoning_id}', { params: { path: { reckoning_id: id } }, signal })),
  })

export const cancelReckoning = (id: string) =>
  answer(server.POST('/api/reckonings/{reckoning_id}/cancel', { params: { path: { reckoning_id: id } } }))

export const samples = (collection: string, field: string, by: SampleBy, word: string, seed: number) =>
  queryOptions({
    ...keptKey(['records', 'samples', collection, field, by, word, seed], 6),
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{collection}/samples', {
          params: { path: { collection }, query: { field, by, word, seed } },
          signal,
        }),
      ),
  })

export const wordLists = (collection: string) =>
  queryOptions({
    queryKey: ['chains', 'word-lists', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/word-lists', { params: { path: { collection } }, signal })),
  })

export const wordList = (collection: string, name: string) =>
  queryOptions({
    queryKey: ['chains', 'word-list', collection, name],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{collection}/word-lists/{name}', {
          params: { path: { collection, name } },
          signal,
        }),
      ),
  })

export const wordListFile = (collection: string, name: string) =>
  here(`/api/collections/${encodeURIComponent(collection)}/word-lists/${encodeURIComponent(name)}/file`)

// asVersion: which one it has to become, for a list that goes on from what was read.
export const putWordList = (collection: string, name: string, csv: string, asVersion?: number) =>
  answer(
    server.PUT('/api/collections/{collection}/word-lists/{name}', {
      params: { path: { collection, name } },
      body: { csv, as_version: asVersion ?? null },
    }),
  )

export const readThesaurus = (file: File, language: string) =>
  answer(
    server.POST('/api/thesaurus', {
      params: { query: { name: file.name, ...(language ? { language: [language] } : {}) } },
      ...sending(file, () => undefined),
    }),
  )

// Keeps a version of a list with one entry more; refused where it is not the one that follows the newest.
export async function addEntry(
  collection: string,
  list: { name: string; version: number; columns: string; row: string },
) {
  const before = list.version === 1 ? `${list.columns}\n` : (await fetchedList(collection, list.name)).csv
  return putWordList(collection, list.name, `${before}${list.row}\n`, list.version)
}

const fetchedList = (collection: string, name: string) =>
  answer(server.GET('/api/collections/{collection}/word-lists/{name}', { params: { path: { collection, name } } }))

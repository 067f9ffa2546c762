// Samples, consequences and word lists: key and request together.
import { keepPreviousData, queryOptions } from '@tanstack/react-query'
import { get, send, upload, type Schemas } from './client'

export type Sample = Schemas['SampleModel']
export type SampleBy = Schemas['SampleBy']
export type ConsequencesAnswer = Schemas['ConsequencesAnswer']
export type Figures = Schemas['ConsequencesModel']
export type Finding = Schemas['FindingModel']
export type Merge = Schemas['MergeModel']
export type Reckoning = Schemas['ReckoningModel']
export type WordList = Schemas['WordListModel']
export type WordListText = Schemas['WordListText']
export type SavedChain = Schemas['ChainModel']

const at = (collection: string, rest: string) => `/collections/${encodeURIComponent(collection)}${rest}`

export type Asked = { field: string; record_chain: string; query_chain: string; query: string }

export const consequences = (collection: string, ask: Asked) =>
  queryOptions({
    queryKey: ['consequences', collection, ask],
    queryFn: ({ signal }) => send<ConsequencesAnswer>('POST', at(collection, '/consequences'), ask, signal),
    placeholderData: keepPreviousData,
    retry: false,
  })

export const reckoning = (id: string) =>
  queryOptions({
    queryKey: ['reckoning', id],
    queryFn: ({ signal }) => get<Reckoning>(`/reckonings/${encodeURIComponent(id)}`, signal),
  })

export const cancelReckoning = (id: string) =>
  send<Reckoning>('POST', `/reckonings/${encodeURIComponent(id)}/cancel`, {})

export const samples = (collection: string, field: string, by: SampleBy, word: string, seed: number) =>
  queryOptions({
    queryKey: ['samples', collection, field, by, word, seed],
    queryFn: ({ signal }) => {
      const asked = new URLSearchParams({ field, by, word, seed: String(seed) })
      return get<Sample[]>(at(collection, `/samples?${asked}`), signal)
    },
    placeholderData: keepPreviousData,
  })

export const wordLists = (collection: string) =>
  queryOptions({
    queryKey: ['word-lists', collection],
    queryFn: ({ signal }) => get<WordList[]>(at(collection, '/word-lists'), signal),
  })

export const wordList = (collection: string, name: string) =>
  queryOptions({
    queryKey: ['word-list', collection, name],
    queryFn: ({ signal }) => get<WordListText>(at(collection, `/word-lists/${encodeURIComponent(name)}`), signal),
  })

export const wordListFile = (collection: string, name: string) =>
  `/api${at(collection, `/word-lists/${encodeURIComponent(name)}/file`)}`

export const putWordList = (collection: string, name: string, csv: string) =>
  send<WordListText>('PUT', at(collection, `/word-lists/${encodeURIComponent(name)}`), { csv })

export const readThesaurus = (file: File, language: string) => {
  const asked = new URLSearchParams({ name: file.name })
  if (language) asked.append('language', language)
  return upload<Schemas['ThesaurusAnswer']>(`/thesaurus?${asked}`, file, () => undefined)
}

// What the Records place asks for and changes.
import { keepPreviousData, queryOptions } from '@tanstack/react-query'
import { get, send, type Schemas } from './client'
import type { Collection } from './queries'

export type Profile = Schemas['Profile']
export type FieldProfile = Schemas['FieldProfile']
export type ImportPlan = Schemas['ImportPlan']
export type FieldPlan = Schemas['FieldPlan']
export type Preview = Schemas['PreviewModel']
export type Import = Schemas['ImportModel']
export type Rejected = Schemas['RejectedRow']
export type SourceRequest = Schemas['SourceRequest']
export type PassageRule = Schemas['PassageDocument']
export type Display = Schemas['DisplayDocument']
export type Kind = Schemas['FieldModel']['kind']
export type Role = Schemas['FieldModel']['role']

const at = (collection: string, rest = '') => `/collections/${encodeURIComponent(collection)}${rest}`

export type Browsing = {
  words: string
  field: string | null
  sort: string | null
  descending: boolean
  first: number
  count: number
}

export const records = (collection: string, browsing: Browsing) =>
  queryOptions({
    queryKey: ['records', collection, browsing],
    queryFn: ({ signal }) => {
      const asked = new URLSearchParams({
        words: browsing.words,
        first: String(browsing.first),
        count: String(browsing.count),
      })
      if (browsing.field) asked.set('field', browsing.field)
      if (browsing.sort) asked.set('sort', browsing.sort)
      if (browsing.descending) asked.set('descending', 'true')
      return get<Schemas['RecordsPage']>(at(collection, `/records?${asked}`), signal)
    },
    placeholderData: keepPreviousData,
  })

export const profile = (collection: string, revision: number) =>
  queryOptions({
    queryKey: ['profile', collection, revision],
    queryFn: ({ signal }) => get<Profile>(at(collection, '/profile'), signal),
    placeholderData: keepPreviousData,
  })

export const earlier = (collection: string, key: string) =>
  queryOptions({
    queryKey: ['earlier', collection, key],
    queryFn: ({ signal }) =>
      get<Schemas['EarlierRecord'][]>(at(collection, `/record/earlier?key=${encodeURIComponent(key)}`), signal),
  })

export const readings = (collection: string, key: string) =>
  queryOptions({
    queryKey: ['readings', collection, key],
    queryFn: ({ signal }) =>
      get<Schemas['RecordReadings']>(at(collection, `/record/readings?key=${encodeURIComponent(key)}`), signal),
  })

export const deleted = (collection: string, first: number) =>
  queryOptions({
    queryKey: ['deleted', collection, first],
    queryFn: ({ signal }) => get<Schemas['EarlierPage']>(at(collection, `/deleted?first=${first}`), signal),
    placeholderData: keepPreviousData,
  })

export const importWithId = (id: number) =>
  queryOptions({
    queryKey: ['import', String(id)],
    queryFn: ({ signal }) => get<Import>(`/imports/${id}`, signal),
  })

export const imports = (collection: string) =>
  queryOptions({
    queryKey: ['imports', collection],
    queryFn: ({ signal }) => get<Import[]>(at(collection, '/imports'), signal),
  })

export const rejected = (id: number, first: number) =>
  queryOptions({
    queryKey: ['rejected', id, first],
    queryFn: ({ signal }) => get<Schemas['RejectedPage']>(`/imports/${id}/rejected?first=${first}`, signal),
    placeholderData: keepPreviousData,
  })

export const triedPassages = (collection: string, field: string, rule: PassageRule) =>
  queryOptions({
    queryKey: ['passages', collection, field, rule],
    queryFn: ({ signal }) =>
      send<Schemas['PassagePreview']>('POST', at(collection, '/passages'), { field, rule }, signal),
    placeholderData: keepPreviousData,
    retry: false,
  })

export const previewed = (source: SourceRequest, plan: ImportPlan | Record<string, never>, collection: string | null) =>
  send<Preview>('POST', '/previews', { source, plan, collection })

export const startImport = (collection: string, source: SourceRequest, plan: ImportPlan) =>
  send<Import>('POST', at(collection, '/imports'), { source, plan })

export const cancelImport = (id: number) => send<Import>('POST', `/imports/${id}/cancel`, {})
export const resumeImport = (id: number) => send<Import>('POST', `/imports/${id}/resume`, {})
export const mendRows = (id: number, rows: { row_number: number; raw: string }[]) =>
  send<Schemas['Mended']>('POST', `/imports/${id}/mend`, { rows })

export const putRecords = (collection: string, rows: Record<string, unknown>[]) =>
  send<Schemas['Changed']>('POST', at(collection, '/records'), { records: rows })
export const deleteRecords = (collection: string, keys: string[]) =>
  send<Schemas['Changed']>('POST', at(collection, '/records/delete'), { keys })
export const restoreRecord = (collection: string, key: string, endedRevision: number) =>
  send<Schemas['Changed']>('POST', at(collection, '/records/restore'), { key, ended_revision: endedRevision })

export const putField = (collection: string, field: string, kind: Kind, role: Role, passages: PassageRule | null) =>
  send<null>('PUT', at(collection, `/fields/${encodeURIComponent(field)}`), { kind, role, passages })
export const putDisplay = (collection: string, display: Display) =>
  send<Display>('PUT', at(collection, '/display'), display)

export const makeCollection = (name: string) => send<Collection>('POST', '/collections', { name })
export const copyCollection = (from: string, name: string) => send<Collection>('POST', at(from, '/copy'), { name })
export const renameCollection = (from: string, name: string) => send<Collection>('PUT', at(from, '/name'), { name })
export const dropCollection = (name: string) =>
  send<null>('DELETE', at(name, `?confirm=${encodeURIComponent(name)}`), {})

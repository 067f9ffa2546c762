// What the Records place asks for and changes.
import { queryOptions } from '@tanstack/react-query'
import { answer, done, sending, server, type Schemas } from './client'
import { keptKey } from './keeping'

export type Profile = Schemas['Profile']
export type FieldProfile = Schemas['FieldProfile']
export type ImportPlan = Schemas['ImportPlan']
export type FieldPlan = Schemas['FieldPlan']
export type Preview = Schemas['Preview']
export type Import = Schemas['ImportTold']
export type Outlook = Schemas['Outlook']
export type Rejected = Schemas['RejectedRow']
export type SourceRequest = Schemas['SourceRequest']
export type PassageRule = Schemas['PassageDocument']
export type Display = Schemas['DisplayDocument']
export type Page = Schemas['RecordsPage']
export type Kind = Schemas['CollectionField']['kind']
export type Role = Exclude<Schemas['CollectionField']['role'], undefined>

// Where a collection stands.
const of = (collection: string) => ({ path: { name: collection } })

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
    ...keptKey(['records', 'records', collection, browsing.words, browsing.field, browsing], 5),
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{name}/records', { params: { ...of(collection), query: browsing }, signal })),
  })

export type CalledRecord = Schemas['CalledRecord']

// Records whose key or title is like some letters.
export const recordsCalled = (collection: string, words: string) =>
  queryOptions({
    queryKey: ['records', 'called', collection, words],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{name}/called', { params: { ...of(collection), query: { words } }, signal })),
  })

export const profile = (collection: string, revision: number) =>
  queryOptions({
    ...keptKey(['records', 'profile', collection, revision], 3),
    queryFn: ({ signal }) => answer(server.GET('/api/collections/{name}/profile', { params: of(collection), signal })),
  })

export const earlier = (collection: string, key: string) =>
  queryOptions({
    queryKey: ['records', 'earlier', collection, key],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{name}/record/earlier', { params: { ...of(collection), query: { key } }, signal }),
      ),
  })

export type RecordPage = Schemas['RecordPageModel']

export const recordPage = (collection: string, key: string) =>
  queryOptions({
    queryKey: ['records', 'page', collection, key],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{name}/page', { params: { ...of(collection), query: { key } }, signal })),
  })

export type ReadingQuality = Schemas['ReadingQuality']

export const readingQuality = (collection: string, revision: number, by: string | null) =>
  queryOptions({
    ...keptKey(['records', 'reading quality', collection, revision, by], 3),
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{name}/reading-quality', {
          params: { ...of(collection), query: by === null ? {} : { by } },
          signal,
        }),
      ),
  })

export const correctWord = (
  collection: string,
  key: string,
  seen: number,
  [start, end]: readonly [number, number],
  letters: string,
) =>
  answer(
    server.POST('/api/collections/{name}/page/word', {
      params: of(collection),
      body: { key, seen, start, end, letters },
    }),
  )

export const readings = (collection: string, key: string) =>
  queryOptions({
    queryKey: ['records', 'readings', collection, key],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{name}/record/readings', {
          params: { ...of(collection), query: { key } },
          signal,
        }),
      ),
  })

export const deleted = (collection: string, first: number) =>
  queryOptions({
    ...keptKey(['records', 'deleted', collection, first], 3),
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{name}/deleted', { params: { ...of(collection), query: { first } }, signal }),
      ),
  })

export const importWithId = (id: number) =>
  queryOptions({
    queryKey: ['imports', 'import', String(id)],
    queryFn: ({ signal }) => answer(server.GET('/api/imports/{job_id}', { params: { path: { job_id: id } }, signal })),
  })

export const imports = (collection: string) =>
  queryOptions({
    queryKey: ['imports', 'imports', collection],
    queryFn: ({ signal }) => answer(server.GET('/api/collections/{name}/imports', { params: of(collection), signal })),
  })

export const rejected = (id: number, first: number) =>
  queryOptions({
    ...keptKey(['imports', 'rejected', id, first], 3),
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/imports/{job_id}/rejected', { params: { path: { job_id: id }, query: { first } }, signal }),
      ),
  })

export const triedPassages = (collection: string, field: string, rule: PassageRule) =>
  queryOptions({
    ...keptKey(['records', 'passages', collection, field, rule], 4),
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{name}/passages', { params: of(collection), body: { field, rule }, signal }),
      ),
    retry: false,
  })

// plan: null to have it guessed.
export const previewed = (source: SourceRequest, plan: ImportPlan | null, collection: string | null) =>
  answer(
    server.POST('/api/previews', {
      body: { source, plan: plan ?? { quote: '"', replace: false, fill_in: false }, collection },
    }),
  )

// It waits to be decided about where it meets records.
// tuneStart: whether the ranker that the records come with is tuned once they are in.
export const startImport = (collection: string, source: SourceRequest, plan: ImportPlan, tuneStart: boolean) =>
  answer(
    server.POST('/api/collections/{name}/imports', {
      params: of(collection),
      body: { source, plan, asks: true, tune_start: tuneStart },
    }),
  )
// deletions: how many records it may delete.
export const letImportGoOn = (id: number, deletions: number) =>
  answer(server.POST('/api/imports/{job_id}/go-on', { params: { path: { job_id: id } }, body: { deletions } }))
export const undoImport = (id: number) =>
  answer(server.POST('/api/imports/{job_id}/undo', { params: { path: { job_id: id } } }))

export const cancelImport = (id: number) =>
  answer(server.POST('/api/imports/{job_id}/cancel', { params: { path: { job_id: id } } }))
export const resumeImport = (id: number) =>
  answer(server.POST('/api/imports/{job_id}/resume', { params: { path: { job_id: id } } }))
export const mendRows = (id: number, rows: { row_number: number; raw: string }[]) =>
  answer(server.POST('/api/imports/{job_id}/mend', { params: { path: { job_id: id } }, body: { rows } }))

// known: by key, the revision in which a record was seen that is changed; refused where it is another one by now.
export const putRecords = (collection: string, rows: Record<string, unknown>[], known: Record<string, number> = {}) =>
  answer(server.POST('/api/collections/{name}/records', { params: of(collection), body: { records: rows, known } }))
export const deleteRecords = (collection: string, keys: string[]) =>
  answer(server.POST('/api/collections/{name}/records/delete', { params: of(collection), body: { keys } }))
export const restoreRecord = (collection: string, key: string, endedRevision: number) =>
  answer(
    server.POST('/api/collections/{name}/records/restore', {
      params: of(collection),
      body: { key, ended_revision: endedRevision },
    }),
  )

// Deleted records: some by key, or all that a revision deleted.
export const restoreDeleted = (collection: string, which: { keys: string[] } | { ended_revision: number }) =>
  answer(server.POST('/api/collections/{name}/deleted/restore', { params: of(collection), body: which }))

export const putField = (collection: string, field: string, kind: Kind, role: Role, passages: PassageRule | null) =>
  done(
    server.PUT('/api/collections/{name}/fields/{field}', {
      params: { path: { name: collection, field } },
      body: { kind, role, passages },
    }),
  )
export const putDisplay = (collection: string, display: Display) =>
  answer(server.PUT('/api/collections/{name}/display', { params: of(collection), body: display }))

export const makeCollection = (name: string) => answer(server.POST('/api/collections', { body: { name } }))
export const copyCollection = (from: string, name: string) =>
  answer(server.POST('/api/collections/{name}/copy', { params: of(from), body: { name } }))
export const renameCollection = (from: string, name: string) =>
  answer(server.PUT('/api/collections/{name}/name', { params: of(from), body: { name } }))
export const dropCollection = (name: string) =>
  done(server.DELETE('/api/collections/{name}', { params: { path: { name }, query: { confirm: name } } }))

// Sends a file, telling how much of it is over.
export const upload = (file: File, onSent: (bytes: number) => void, signal?: AbortSignal) =>
  answer(server.POST('/api/uploads', { params: { query: { name: file.name } }, ...sending(file, onSent, signal) }))

// Judged sets, judging, expectations and the diary: key and request together.
import { queryOptions } from '@tanstack/react-query'
import { get, send, type Schemas } from './client'

export type JudgedSummary = Schemas['JudgedSummary']
export type ListedQuery = Schemas['ListedQuery']
export type QueryRequest = Schemas['QueryRequest']
export type Task = Schemas['TaskModel']
export type TaskRequest = Schemas['TaskRequest']
export type Standing = Schemas['JudgingStanding']
export type Expectation = Schemas['ExpectationModel']
export type ExpectationRequest = Schemas['ExpectationRequest']
export type DiaryEntry = Schemas['DiaryEntry']
export type JudgeWork = Schemas['JudgeAnswer']
export type JudgeRecord = Schemas['JudgeRecord']
export type Said = Schemas['SaidModel']
export type ComplaintRequest = Schemas['ComplaintRequest']
export type Settling = Schemas['Settling']

const at = (collection: string, rest: string) => `/collections/${encodeURIComponent(collection)}${rest}`
const of = (collection: string, set: string, rest = '') => at(collection, `/judged/${encodeURIComponent(set)}${rest}`)

export const judgedSets = (collection: string) =>
  queryOptions({
    queryKey: ['judged sets', collection],
    queryFn: ({ signal }) => get<JudgedSummary[]>(at(collection, '/judged'), signal),
  })

export const queriesOfSet = (collection: string, set: string) =>
  queryOptions({
    queryKey: ['set queries', collection, set],
    queryFn: ({ signal }) => get<ListedQuery[]>(of(collection, set, '/queries'), signal),
  })

export const tasksOf = (collection: string, set: string) =>
  queryOptions({
    queryKey: ['tasks', collection, set],
    queryFn: ({ signal }) => get<Task[]>(of(collection, set, '/tasks'), signal),
    // Judges are at work elsewhere.
    refetchInterval: 5_000,
  })

export const standingOf = (collection: string, set: string) =>
  queryOptions({
    queryKey: ['standing', collection, set],
    queryFn: ({ signal }) => get<Standing>(of(collection, set, '/standing'), signal),
  })

export const expectationsOf = (collection: string, set: string) =>
  queryOptions({
    queryKey: ['expectations', collection, set],
    queryFn: ({ signal }) => get<Expectation[]>(of(collection, set, '/expectations'), signal),
  })

export const diaryOf = (collection: string) =>
  queryOptions({
    queryKey: ['diary', collection],
    queryFn: ({ signal }) => get<DiaryEntry[]>(at(collection, '/diary'), signal),
  })

export type KeptRun = Schemas['KeptRun']

export const runsOf = (collection: string, set: string) =>
  queryOptions({
    queryKey: ['runs', collection, set],
    queryFn: ({ signal }) => get<KeptRun[]>(of(collection, set, '/runs'), signal),
  })

// The same run, revision and rules give the same digits every time.
export const measureRun = (collection: string, set: string, run: number, measures: string[], revision: number | null) =>
  send<Schemas['RemeasureAnswer']>('POST', of(collection, set, `/runs/${run}/measure`), { measures, revision })

export const makeSet = (collection: string, set: string, locked_share: number) =>
  send<JudgedSummary[]>('POST', of(collection, set), { locked_share })

export const dropSet = (collection: string, set: string) => send<null>('DELETE', of(collection, set), {})

export const changeRules = (collection: string, set: string, rules: Schemas['RulesRequest']) =>
  send<JudgedSummary[]>('PUT', of(collection, set, '/rules'), rules)

export const lockAway = (collection: string, set: string, share: number) =>
  send<JudgedSummary[]>('POST', of(collection, set, '/lock'), { share })

export const addQuery = (collection: string, set: string, query: QueryRequest) =>
  send<Schemas['ComplaintAnswer']>('POST', of(collection, set, '/queries'), query)

export const putQuery = (collection: string, set: string, id: string, query: QueryRequest) =>
  send<Schemas['ComplaintAnswer']>('PUT', of(collection, set, `/queries/${encodeURIComponent(id)}`), query)

export const dropQuery = (collection: string, set: string, id: string) =>
  send<null>('DELETE', of(collection, set, `/queries/${encodeURIComponent(id)}`), {})

export const addList = (collection: string, set: string, text: string, most: number | null) =>
  send<Schemas['ListAnswer']>('POST', of(collection, set, '/list'), { text, most })

export const putFiles = (collection: string, set: string, files: Schemas['FilesRequest']) =>
  send<Schemas['FilesAnswer']>('PUT', of(collection, set, '/files'), files)

export const fileOf = (collection: string, set: string, what: 'queries' | 'judgments', form: string) =>
  `/api${of(collection, set, `/files/${what}?form=${form}`)}`

export const complain = (collection: string, set: string, complaint: ComplaintRequest) =>
  send<Schemas['ComplaintAnswer']>('POST', of(collection, set, '/complaints'), complaint)

export const expectThat = (collection: string, set: string, expectation: ExpectationRequest) =>
  send<Expectation[]>('POST', of(collection, set, '/expectations'), expectation)

export const expectNoMore = (collection: string, set: string, id: number) =>
  send<Expectation[]>('DELETE', of(collection, set, `/expectations/${id}`), {})

export const makeTask = (collection: string, set: string, task: TaskRequest) =>
  send<Task[]>('POST', of(collection, set, '/tasks'), task)

export const closeTask = (collection: string, set: string, id: number, closed: boolean) =>
  send<Task[]>('POST', of(collection, set, `/tasks/${id}/close`), { closed })

export const dropTask = (collection: string, set: string, id: number) =>
  send<Task[]>('DELETE', of(collection, set, `/tasks/${id}`), {})

export const settleGrade = (
  collection: string,
  set: string,
  query_id: string,
  record_key: string,
  grade: number | null,
  note: string,
) => send<Standing>('POST', of(collection, set, '/settle'), { query_id, record_key, grade, note })

export const confirmStale = (collection: string, set: string, query_id: string, record_key: string) =>
  send<Standing>('POST', of(collection, set, '/confirm'), { query_id, record_key })

export const writeDecision = (collection: string, title: string, body: string, details: Record<string, unknown>) =>
  send<DiaryEntry>('POST', at(collection, '/diary'), { title, body, details })

export const judgeWork = (token: string) =>
  queryOptions({
    queryKey: ['judge', token],
    queryFn: ({ signal }) => get<JudgeWork>(`/judge/${encodeURIComponent(token)}`, signal),
    // What is on the screen stays while the connection is away.
    staleTime: Infinity,
  })

export const judgeQuery = (token: string, query: string) =>
  queryOptions({
    queryKey: ['judge', token, query],
    queryFn: ({ signal }) =>
      get<Schemas['JudgeQueryAnswer']>(
        `/judge/${encodeURIComponent(token)}/queries/${encodeURIComponent(query)}`,
        signal,
      ),
    staleTime: Infinity,
  })

export const judgeSays = (token: string, said: Said[]) =>
  send<Schemas['SaidAnswer']>('POST', `/judge/${encodeURIComponent(token)}/said`, { said })

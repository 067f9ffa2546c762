// Judged sets, judging, expectations and the diary: key and request together.
import { queryOptions } from '@tanstack/react-query'
import { here } from './base'
import { answer, done, server, type Schemas } from './client'
import { HOW } from './queries'

export type JudgedSummary = Schemas['JudgedSummary']
export type ListedQuery = Schemas['ListedQuery']
export type QueryRequest = Schemas['QueryRequest']
export type Task = Schemas['TaskStanding']
export type TaskRequest = Schemas['TaskRequest']
export type Standing = Schemas['JudgingStanding']
export type Expectation = Schemas['ExpectationTold']
export type ExpectationRequest = Schemas['ExpectationRequest']
export type DiaryEntry = Schemas['DiaryEntry']
export type JudgeWork = Schemas['JudgesPage']
export type JudgeRecord = Schemas['JudgedRecord']
export type Said = Schemas['SaidModel']
export type ComplaintRequest = Schemas['ComplaintRequest']
export type Settling = Schemas['Settling']

// Where a judged set stands.
const of = (collection: string, set: string) => ({ path: { collection, name: set } })

export const judgedSets = (collection: string) =>
  queryOptions({
    queryKey: ['judging', 'judged sets', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/judged', { params: { path: { collection } }, signal })),
  })

export const queriesOfSet = (collection: string, set: string) =>
  queryOptions({
    queryKey: ['judging', 'set queries', collection, set],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{collection}/judged/{name}/queries', { params: of(collection, set), signal }),
      ),
  })

export const tasksOf = (collection: string, set: string) =>
  queryOptions({
    queryKey: ['judging', 'tasks', collection, set],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/judged/{name}/tasks', { params: of(collection, set), signal })),
  })

export const standingOf = (collection: string, set: string) =>
  queryOptions({
    queryKey: ['judging', 'standing', collection, set],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{collection}/judged/{name}/standing', { params: of(collection, set), signal }),
      ),
  })

export const expectationsOf = (collection: string, set: string) =>
  queryOptions({
    queryKey: ['judging', 'expectations', collection, set],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/collections/{collection}/judged/{name}/expectations', { params: of(collection, set), signal }),
      ),
  })

export const diaryOf = (collection: string) =>
  queryOptions({
    queryKey: ['measuring', 'diary', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/diary', { params: { path: { collection } }, signal })),
  })

export type KeptRun = Schemas['KeptRun']

export const runsOf = (collection: string, set: string) =>
  queryOptions({
    queryKey: ['measuring', 'runs', collection, set],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/judged/{name}/runs', { params: of(collection, set), signal })),
  })

// The same run, revision and rules give the same digits every time.
export const measureRun = (collection: string, set: string, run: number, measures: string[], revision: number | null) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/runs/{run}/measure', {
      params: { path: { collection, name: set, run } },
      body: { measures, revision, how: HOW },
    }),
  )

export const makeSet = (collection: string, set: string, locked_share: number) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}', { params: of(collection, set), body: { locked_share } }),
  )

export const dropSet = (collection: string, set: string) =>
  done(server.DELETE('/api/collections/{collection}/judged/{name}', { params: of(collection, set) }))

export const changeRules = (collection: string, set: string, rules: Schemas['RulesRequest']) =>
  answer(server.PUT('/api/collections/{collection}/judged/{name}/rules', { params: of(collection, set), body: rules }))

export const lockAway = (collection: string, set: string, share: number) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/lock', { params: of(collection, set), body: { share } }),
  )

export const addQuery = (collection: string, set: string, query: QueryRequest) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/queries', { params: of(collection, set), body: query }),
  )

export const putQuery = (collection: string, set: string, id: string, query: QueryRequest) =>
  answer(
    server.PUT('/api/collections/{collection}/judged/{name}/queries/{query_id}', {
      params: { path: { collection, name: set, query_id: id } },
      body: query,
    }),
  )

export const dropQuery = (collection: string, set: string, id: string) =>
  done(
    server.DELETE('/api/collections/{collection}/judged/{name}/queries/{query_id}', {
      params: { path: { collection, name: set, query_id: id } },
    }),
  )

export const addList = (collection: string, set: string, text: string, most: number | null) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/list', {
      params: of(collection, set),
      body: { text, most },
    }),
  )

export const putFiles = (collection: string, set: string, files: Schemas['FilesRequest']) =>
  answer(server.PUT('/api/collections/{collection}/judged/{name}/files', { params: of(collection, set), body: files }))

export const fileOf = (collection: string, set: string, what: 'queries' | 'judgments', form: string) =>
  here(
    `/api/collections/${encodeURIComponent(collection)}/judged/${encodeURIComponent(set)}/files/${what}?form=${form}`,
  )

export const complain = (collection: string, set: string, complaint: ComplaintRequest) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/complaints', {
      params: of(collection, set),
      body: complaint,
    }),
  )

export const expectThat = (collection: string, set: string, expectation: ExpectationRequest) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/expectations', {
      params: of(collection, set),
      body: expectation,
    }),
  )

export const expectNoMore = (collection: string, set: string, id: number) =>
  answer(
    server.DELETE('/api/collections/{collection}/judged/{name}/expectations/{number}', {
      params: { path: { collection, name: set, number: id } },
    }),
  )

// Links of judges are told once, when they are made: this page keeps them as long as it is open.
const links = new Map<string, string>()
const nameOf = (task: number, judge: string) => `${task} ${judge}`

export const linkOf = (task: number, judge: string): string | null => links.get(nameOf(task, judge)) ?? null

export function withLinks(tasks: Task[]): Task[] {
  for (const task of tasks) for (const one of task.judges) if (one.path) links.set(nameOf(task.id, one.judge), one.path)
  return tasks
}

export const newLink = async (collection: string, set: string, task: number, judge: string, days: number | null) =>
  withLinks(
    await answer(
      server.POST('/api/collections/{collection}/judged/{name}/tasks/{task}/links', {
        params: { path: { collection, name: set, task } },
        body: { judge, days },
      }),
    ),
  )

export const drawLinkBack = async (collection: string, set: string, task: number, judge: string) => {
  links.delete(nameOf(task, judge))
  await answer(
    server.DELETE('/api/collections/{collection}/judged/{name}/tasks/{task}/links', {
      params: { path: { collection, name: set, task }, query: { judge } },
    }),
  )
}

export const makeTask = async (collection: string, set: string, task: TaskRequest) =>
  withLinks(
    await answer(
      server.POST('/api/collections/{collection}/judged/{name}/tasks', { params: of(collection, set), body: task }),
    ),
  )

export const closeTask = (collection: string, set: string, id: number, closed: boolean) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/tasks/{task}/close', {
      params: { path: { collection, name: set, task: id } },
      body: { closed },
    }),
  )

export const dropTask = (collection: string, set: string, id: number) =>
  answer(
    server.DELETE('/api/collections/{collection}/judged/{name}/tasks/{task}', {
      params: { path: { collection, name: set, task: id } },
    }),
  )

export const settleGrade = (
  collection: string,
  set: string,
  query_id: string,
  record_key: string,
  grade: number | null,
  note: string,
) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/settle', {
      params: of(collection, set),
      body: { query_id, record_key, grade, note },
    }),
  )

export const confirmStale = (collection: string, set: string, query_id: string, record_key: string) =>
  answer(
    server.POST('/api/collections/{collection}/judged/{name}/confirm', {
      params: of(collection, set),
      body: { query_id, record_key },
    }),
  )

export const writeDecision = (collection: string, title: string, body: string, details: Record<string, unknown>) =>
  answer(
    server.POST('/api/collections/{collection}/diary', {
      params: { path: { collection } },
      body: { title, body, details },
    }),
  )

export const judgeWork = (token: string) =>
  queryOptions({
    queryKey: ['judge', 'judge', token],
    queryFn: ({ signal }) => answer(server.GET('/api/judge/{token}', { params: { path: { token } }, signal })),
    // What is on the screen stays while the connection is away.
    staleTime: Infinity,
  })

export const judgeQuery = (token: string, query: string) =>
  queryOptions({
    queryKey: ['judge', 'judge', token, query],
    queryFn: ({ signal }) =>
      answer(
        server.GET('/api/judge/{token}/queries/{query_id}', { params: { path: { token, query_id: query } }, signal }),
      ),
    staleTime: Infinity,
  })

// Of a record that a judge is asked about.
export const judgePage = (token: string, key: string) =>
  queryOptions({
    queryKey: ['judge', 'page', token, key],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/judge/{token}/page', { params: { path: { token }, query: { key } }, signal })),
    staleTime: Infinity,
  })

export const judgePicture = (token: string, key: string, small: boolean) =>
  here(`/api/judge/${encodeURIComponent(token)}/picture?key=${encodeURIComponent(key)}${small ? '&small=true' : ''}`)

export const judgeSays = (token: string, said: Said[]) =>
  answer(server.POST('/api/judge/{token}/said', { params: { path: { token } }, body: { said } }))

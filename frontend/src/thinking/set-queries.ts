// The queries of a judged set: found by words and signs; a query as its form holds it.
import type { ListedQuery, QueryRequest } from '../api/judging'
import { parsedFilters } from './ranker-parts'

// Every word must be somewhere in query or need; `tag:…`, `locked` and `unjudged` narrow as they say.
export function foundQueries(queries: readonly ListedQuery[], words: string): ListedQuery[] {
  const wanted = words.toLocaleLowerCase().split(/\s+/).filter(Boolean)
  return queries.filter((one) =>
    wanted.every((word) => {
      if (word === 'locked') return one.locked
      if (word === 'unjudged') return one.graded === 0
      if (word.startsWith('tag:')) return one.tags.some((tag) => tag.toLocaleLowerCase().includes(word.slice(4)))
      return `${one.query} ${one.need}`.toLocaleLowerCase().includes(word)
    }),
  )
}

export type QueryText = {
  query: string
  need: string
  tags: string
  asked: string
  language: string
  filters: string
  nothing_to_find: boolean
  locked: boolean
}

export function queryText(one: ListedQuery | null): QueryText {
  return {
    query: one?.query ?? '',
    need: one?.need ?? '',
    tags: one?.tags.join(', ') ?? '',
    asked: one?.asked === null || one === null ? '' : String(one.asked),
    language: one?.language ?? '',
    filters: one && one.filters.length ? JSON.stringify(one.filters) : '',
    nothing_to_find: one?.nothing_to_find ?? false,
    locked: one?.locked ?? false,
  }
}

// isNew: whether a new query is locked away is left to chance.
export function queryRequest(text: QueryText, isNew: boolean): QueryRequest {
  return {
    query: text.query.trim(),
    need: text.need.trim(),
    tags: text.tags
      .split(',')
      .map((tag) => tag.trim())
      .filter(Boolean),
    asked: text.asked.trim() === '' ? null : Number(text.asked),
    language: text.language.trim() || null,
    filters: parsedFilters(text.filters || null),
    nothing_to_find: text.nothing_to_find,
    locked: isNew ? null : text.locked,
  }
}

// The queries as rows to take along, with heads.
export const queriesTable = (queries: readonly ListedQuery[]): (string | number)[][] => [
  ['query', 'need', 'tags', 'asked', 'graded', 'relevant', 'locked'],
  ...queries.map((one) => [
    ...[one.query, one.need, one.tags.join(', '), one.asked ?? '', one.graded],
    ...[one.nothing_to_find ? 'nothing' : one.relevant, one.locked ? 'locked' : ''],
  ]),
]

// What is being said of a following, before it is kept.
import type { Following, WayOffered } from '../../api/following'
import type { FollowingDocument } from '../../thinking/following'

export type Said = {
  connection: string
  // Of the draft; empty where the query is written by hand.
  table: string
  joins: string[] | null
  query: string
  key: string
  tables: { name: string; owners: string }[]
  changedAt: string
  way: FollowingDocument['way'] | null
  by: WayOffered['by']
  everyS: string
}

export const NOTHING: Said = {
  connection: '',
  table: '',
  joins: null,
  query: '',
  key: '',
  tables: [],
  changedAt: '',
  way: null,
  by: null,
  everyS: '10',
}

export function saidBefore(before: Following | null): Said {
  if (before === null) return NOTHING
  const own = before.document as FollowingDocument
  return {
    ...NOTHING,
    connection: own.connection,
    query: own.query,
    key: own.key,
    tables: own.tables,
    changedAt: own.changed_at ?? '',
    way: own.way,
    by: own.way !== 'asking' ? null : own.changed_at ? 'column' : 'transaction',
    everyS: String(own.every_s),
  }
}

export const isChosen = (said: Said, one: WayOffered) => said.way === one.way && said.by === one.by

// before: what is said of it that this page does not ask about.
export function documentOf(said: Said, before: Following | null): Record<string, unknown> {
  return {
    ...before?.document,
    // What the columns become is told by their types and first rows.
    fields: null,
    connection: said.connection,
    query: said.query,
    key: said.key,
    way: said.way ?? 'asking',
    tables: said.way === 'asking' && said.by === 'column' ? [] : said.tables,
    changed_at: said.way === 'asking' && said.by === 'column' ? said.changedAt : null,
    every_s: Number(said.everyS),
  }
}

export const lookOf = (said: Said) => ({
  query: said.query,
  key: said.key,
  tables: said.tables,
  changed_at: said.changedAt || null,
})

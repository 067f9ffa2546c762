// A judge's work: where the judge is, what was said of each record, and the ways to say it and to go on.
import { useQueries } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { judgeQuery, type JudgeWork, type Said } from '../../api/judging'
import { nextUnjudged, type Place } from '../../thinking/judging'
import { pairOf } from '../../thinking/outbox'
import { useOutbox } from './use-outbox'

export type Word = { grade: number | null; note: string }

const FETCHED_AHEAD = 20

// What the server knew when the page was opened, and over it what it does not know yet.
function wordsOf(said: JudgeWork['said'], waiting: readonly Said[]): Map<string, Word> {
  const words = new Map(said.map((one) => [pairOf(one), { grade: one.grade, note: one.note }]))
  for (const one of waiting) {
    if (one.taken_back) words.delete(pairOf(one))
    else words.set(pairOf(one), { grade: one.grade, note: one.note ?? '' })
  }
  return words
}

export type Desk = ReturnType<typeof useDesk>

export function useDesk(token: string, work: JudgeWork) {
  const outbox = useOutbox(token, work.last_said)
  const [here, setHere] = useState<Place | null>(null)
  const [words, setWords] = useState<ReadonlyMap<string, Word>>(() => wordsOf(work.said, outbox.waiting))
  const [done, setDone] = useState<{ place: Place; before: Word | null }[]>([])
  const judged = useMemo(
    () =>
      work.queries.map((query) =>
        query.record_keys.map((record_key) => words.has(pairOf({ query_id: query.query_id, record_key }))),
      ),
    [work.queries, words],
  )
  const place = here ??
    nextUnjudged(judged, { query: judged.length - 1, record: (judged.at(-1)?.length ?? 1) - 1 }) ?? {
      query: 0,
      record: 0,
    }
  const query = work.queries[place.query]
  const recordKey = query?.record_keys[place.record]
  const word =
    (query && recordKey !== undefined && words.get(pairOf({ query_id: query.query_id, record_key: recordKey }))) || null
  // The next queries too: a connection that is away for a while is not noticed.
  const found = useQueries({
    queries: work.queries.slice(place.query, place.query + FETCHED_AHEAD).map((one) => judgeQuery(token, one.query_id)),
  })[0]
  const record = found?.data?.[place.record]

  const say = (at: Place, next: Word | null) => {
    const q = work.queries[at.query]
    const record_key = q?.record_keys[at.record]
    if (!q || record_key === undefined) return
    const said: Omit<Said, 'at' | 'device' | 'order'> = {
      query_id: q.query_id,
      record_key,
      grade: next?.grade ?? null,
      note: next?.note ?? '',
      taken_back: next === null,
    }
    outbox.say(said)
    setWords((old) => {
      const all = new Map(old)
      if (next) all.set(pairOf(said), next)
      else all.delete(pairOf(said))
      return all
    })
  }
  const grade = (value: number | null) => {
    if (!record || work.closed) return
    setDone((old) => [...old, { place, before: word }])
    say(place, { grade: value, note: word?.note ?? '' })
    const after = judged.map((some, i) => some.map((one, j) => one || (i === place.query && j === place.record)))
    setHere(nextUnjudged(after, place) ?? place)
  }
  const undo = () => {
    const last = done.at(-1)
    if (!last) return
    setDone((old) => old.slice(0, -1))
    say(last.place, last.before)
    setHere(last.place)
  }
  const step = (by: number) => {
    const all = work.queries.flatMap((one, q) => one.record_keys.map((_, r) => ({ query: q, record: r })))
    const at = all.findIndex((one) => one.query === place.query && one.record === place.record)
    const next = all[at + by]
    if (next) setHere(next)
  }
  const all = judged.flat()
  return {
    ...{ token, work, outbox, words, place, query, recordKey, word, record, problem: found?.error ?? null },
    ...{ say, grade, undo, step, goTo: setHere, canUndo: done.length > 0 },
    ...{ count: all.filter(Boolean).length, inAll: all.length },
  }
}

// A judge's page: one query, its need in words, one record at a time; keys 0 1 2 3. Nothing tells of any ranker.
import { useQueries, useQuery } from '@tanstack/react-query'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useParams } from 'react-router'
import { judgeQuery, judgeWork, type JudgeWork, type Said } from '../../api/judging'
import { GradeRungs } from '../../parts/grade-rungs'
import { Empty, Loading, ProblemNote } from '../../parts/notes'
import { RecordWhole } from '../../parts/record-whole'
import { typing, useKeys } from '../../shell/keys'
import { turnTheme } from '../../shell/theme'
import { GRADE_NAMES, nextUnjudged, type Place } from '../../thinking/judging'
import { pairOf } from '../../thinking/outbox'
import { Meanings } from './meanings'
import { useOutbox, type Sending } from './use-outbox'

export function Judge() {
  const { token = '' } = useParams()
  const work = useQuery(judgeWork(token))
  if (work.isPending) return <Loading what="what there is to judge" />
  if (work.isError) return <ProblemNote error={work.error} />
  if (work.data.queries.length === 0)
    return (
      <Empty title="Nothing to judge">The queries of this task are not there any more. Thank you for coming.</Empty>
    )
  return <Desk token={token} work={work.data} />
}

type Word = { grade: number | null; note: string }

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

function Desk({ token, work }: { token: string; work: JudgeWork }) {
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
    const said: Omit<Said, 'at'> = {
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
  const note = useRef<HTMLTextAreaElement>(null)
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.altKey) return
    if ((event.ctrlKey || event.metaKey) && event.key === 'z') {
      event.preventDefault()
      undo()
      return
    }
    if (event.ctrlKey || event.metaKey) return
    if (['0', '1', '2', '3'].includes(event.key)) grade(Number(event.key))
    else if (event.key === 'x') grade(null)
    else if (event.key === 'u') undo()
    else if (event.key === 'ArrowRight' || event.key === 'j') step(1)
    else if (event.key === 'ArrowLeft' || event.key === 'k') step(-1)
    else if (event.key === 't') turnTheme()
    else if (event.key === 'n') {
      event.preventDefault()
      note.current?.focus()
    }
  })
  const top = useRef<HTMLElement>(null)
  useEffect(() => {
    // Braces: scrolling gives a promise, which is no clean-up.
    top.current?.scrollTo({ top: 0 })
  }, [place.query, place.record])

  if (!query || recordKey === undefined) return null
  const all = judged.flat()
  const count = all.filter(Boolean).length
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_300px] grid-rows-[auto_minmax(0,1fr)_auto]">
      <header className="line-b col-span-2 flex items-center gap-4 px-6 py-2">
        <img src="/favicon.svg" alt="" width="24" height="24" className="shrink-0" />
        <b className="min-w-0 truncate font-semibold" title={work.task}>
          {work.task}
        </b>
        <span className="quiet min-w-0 truncate" title={work.judge}>
          for {work.judge}
        </span>
        <span className="flex-1" />
        <Kept outbox={outbox} />
        <progress
          className="progress w-[140px] shrink-0 text-secondary"
          value={count}
          max={all.length}
          aria-label="Judged"
        />
        <span className="figure shrink-0 whitespace-nowrap" data-testid="left">
          {count === all.length ? 'all judged' : `${all.length - count} of ${all.length} left`}
        </span>
      </header>
      <main ref={top} className="min-h-0 overflow-y-auto px-6 py-4">
        {work.closed && <p className="loss pb-2">This task is closed: nothing more is counted.</p>}
        {count === all.length && (
          <p role="status" className="gain pb-2 font-semibold">
            That was all. Thank you! You may still look through it and change your mind.
          </p>
        )}
        <h1 className="text-[22px] font-semibold wrap-anywhere" aria-label="Query">
          “{query.query}”
        </h1>
        <p className="max-w-[70ch] pb-1 text-[17px] wrap-anywhere">
          {query.need || 'Nobody wrote down what was wanted: judge by the words.'}
        </p>
        <p className="quiet small pb-3">
          query {place.query + 1} of {work.queries.length}, record {place.record + 1} of {query.record_keys.length}
        </p>
        <article aria-label="Record" className="max-w-[76ch] border-l-[3px] border-base-300 pl-4">
          {found?.error ? (
            <ProblemNote error={found.error} />
          ) : !record ? (
            <Loading what="the record" />
          ) : record.gone ? (
            <p>This record is not there any more. Press x: nobody can tell.</p>
          ) : (
            <RecordWhole
              collection={work.collection}
              display={work.display}
              recordKey={record.key}
              values={record.field_values}
              marks={record.marks}
            />
          )}
        </article>
      </main>
      <aside aria-label="What the grades mean" className="line-l row-span-1 min-h-0 overflow-y-auto px-4 py-4">
        <Meanings meanings={work.meanings} />
        <h2 className="heading quiet pt-4 pb-1">This query’s records</h2>
        <ol className="flex flex-wrap gap-1">
          {query.record_keys.map((record_key, i) => {
            const said = words.get(pairOf({ query_id: query.query_id, record_key })) ?? null
            return (
              <li key={record_key}>
                <button
                  type="button"
                  aria-label={`Record ${i + 1}${said === null ? '' : said.grade === null ? ', passed' : `, grade ${said.grade}`}`}
                  aria-current={i === place.record ? 'true' : undefined}
                  className={`grid h-[28px] w-[28px] cursor-pointer place-items-center border-b-[3px] ${i === place.record ? 'border-primary' : 'border-transparent'}`}
                  onClick={() => setHere({ query: place.query, record: i })}
                >
                  {said?.grade === null ? <span aria-hidden>x</span> : <GradeRungs grade={said?.grade ?? undefined} />}
                </button>
              </li>
            )
          })}
        </ol>
      </aside>
      <footer className="line-t col-span-2 flex flex-wrap items-center gap-2 px-6 py-3">
        {GRADE_NAMES.map((name, value) => (
          <button
            key={name}
            type="button"
            disabled={work.closed}
            aria-pressed={word?.grade === value}
            className={`btn btn-sm gap-2 font-normal ${word?.grade === value ? 'btn-neutral' : ''}`}
            onClick={() => grade(value)}
          >
            <kbd className="font-mono">{value}</kbd> {name}
          </button>
        ))}
        <button
          type="button"
          disabled={work.closed}
          aria-pressed={word !== null && word.grade === null}
          className={`btn btn-sm gap-2 font-normal ${word !== null && word.grade === null ? 'btn-neutral' : ''}`}
          onClick={() => grade(null)}
        >
          <kbd className="font-mono">x</kbd> pass
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-sm font-normal"
          disabled={done.length === 0}
          title="Take the last one back (u)"
          onClick={undo}
        >
          <kbd className="font-mono">u</kbd> undo
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-sm font-normal"
          title="The record before (←)"
          onClick={() => step(-1)}
        >
          ← before
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-sm font-normal"
          title="The next record (→)"
          onClick={() => step(1)}
        >
          next →
        </button>
        <textarea
          ref={note}
          aria-label="Note"
          rows={1}
          key={`${query.query_id}\n${recordKey}\n${word?.grade ?? ''}`}
          defaultValue={word?.note ?? ''}
          placeholder="a note (n), after the grade"
          disabled={word === null || work.closed}
          maxLength={10_000}
          className="textarea textarea-sm min-h-[32px] min-w-[160px] flex-1 border-base-300 bg-transparent"
          onKeyDown={(event) => {
            if (event.key === 'Escape' || (event.key === 'Enter' && !event.shiftKey)) event.currentTarget.blur()
          }}
          onBlur={(event) => {
            if (word && event.target.value !== word.note) say(place, { ...word, note: event.target.value })
          }}
        />
      </footer>
    </div>
  )
}

function Kept({ outbox }: { outbox: Sending }) {
  const count = outbox.waiting.length
  if (outbox.problem)
    return (
      <span role="alert" className="loss small shrink-0">
        {outbox.problem}
      </span>
    )
  if (outbox.away) {
    return (
      <span role="status" className="small shrink-0" data-testid="sending">
        No connection: {count} {count === 1 ? 'judgment waits' : 'judgments wait'} here and will be sent.
        {!outbox.stored && ' This browser stores nothing: leave the page open.'}
      </span>
    )
  }
  return (
    <span role="status" className="quiet small shrink-0" data-testid="sending">
      {count === 0 ? 'all kept' : 'keeping …'}
    </span>
  )
}

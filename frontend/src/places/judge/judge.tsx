// A judge's page: one query, its need in words, one record at a time; keys 0 1 2 3. Nothing tells of any ranker.
import { here } from '../../api/base'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { Navigate, useParams } from 'react-router'
import { judgeWork, type JudgeWork } from '../../api/judging'
import { me } from '../../api/people'
import { Empty, Loading, ProblemNote } from '../../parts/notes'
import { judgePicture } from '../../api/judging'
import { RecordWhole } from '../../parts/record-whole'
import { JudgedPage } from '../../scans/page-viewer'
import { isPage, valueText } from '../../thinking/records'
import { typing, useKeys } from '../../shell/keys'
import { turnTheme } from '../../shell/theme'
import { GradeBar } from './grade-bar'
import { Meanings } from './meanings'
import { RecordsOfQuery } from './records-of-query'
import { useDesk, type Desk } from './use-desk'
import type { Sending } from './use-outbox'
import { Unanswered } from '../../parts/answered'

export function Judge() {
  const { token = '' } = useParams()
  const work = useQuery(judgeWork(token))
  const isOwn = token.startsWith('own-')
  const known = useQuery({ ...me(), enabled: isOwn })
  // Given to somebody who signs in: without that it leads nowhere.
  if (isOwn && known.data?.needs_sign_in && known.data.person === null)
    return <Navigate to={`/sign-in?to=${encodeURIComponent(`/judge/${token}`)}`} replace />
  if (!work.data) return <Unanswered asked={[work]} what="what there is to judge" />
  if (work.data.queries.length === 0)
    return (
      <Empty title="Nothing to judge">The queries of this task are not there any more. Thank you for coming.</Empty>
    )
  return <AtWork token={token} work={work.data} />
}

function AtWork({ token, work }: { token: string; work: JudgeWork }) {
  const desk = useDesk(token, work)
  const note = useRef<HTMLTextAreaElement>(null)
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.altKey) return
    if ((event.ctrlKey || event.metaKey) && event.key === 'z') {
      event.preventDefault()
      desk.undo()
      return
    }
    if (event.ctrlKey || event.metaKey) return
    if (['0', '1', '2', '3'].includes(event.key)) desk.grade(Number(event.key))
    else if (event.key === 'x') desk.grade(null)
    else if (event.key === 'u') desk.undo()
    else if (event.key === 'ArrowRight' || event.key === 'j') desk.step(1)
    else if (event.key === 'ArrowLeft' || event.key === 'k') desk.step(-1)
    else if (event.key === 't') turnTheme()
    else if (event.key === 'n') {
      event.preventDefault()
      note.current?.focus()
    }
  })
  if (!desk.query || desk.recordKey === undefined) return null
  return (
    <div className="shell panes grid h-full grid-cols-[minmax(0,1fr)_300px] grid-rows-[auto_minmax(0,1fr)_auto]">
      <HowFar desk={desk} />
      <InView desk={desk} query={desk.query} />
      <aside aria-label="What the grades mean" className="line-l row-span-1 min-h-0 overflow-y-auto px-4 py-4">
        <Meanings meanings={work.meanings} />
        <RecordsOfQuery desk={desk} query={desk.query} />
      </aside>
      <GradeBar desk={desk} note={note} />
    </div>
  )
}

function HowFar({ desk }: { desk: Desk }) {
  return (
    <header className="line-b col-span-2 flex items-center gap-4 px-6 py-2">
      <img src={here('/favicon.svg')} alt="" width="24" height="24" className="shrink-0" />
      <b className="min-w-0 truncate font-semibold" title={desk.work.task}>
        {desk.work.task}
      </b>
      <span className="quiet min-w-0 truncate" title={desk.work.judge}>
        for {desk.work.judge}
      </span>
      <span className="flex-1" />
      <Kept outbox={desk.outbox} />
      <progress
        className="progress w-[140px] shrink-0 text-secondary"
        value={desk.count}
        max={desk.inAll}
        aria-label="Judged"
      />
      <span className="figure shrink-0 whitespace-nowrap" data-testid="left">
        {desk.count === desk.inAll ? 'all judged' : `${desk.inAll - desk.count} of ${desk.inAll} left`}
      </span>
    </header>
  )
}

type Query = JudgeWork['queries'][number]

function InView({ desk, query }: { desk: Desk; query: Query }) {
  const { work, place, record, problem } = desk
  const top = useRef<HTMLElement>(null)
  useEffect(() => {
    // Braces: scrolling gives a promise, which is no clean-up.
    top.current?.scrollTo({ top: 0 })
  }, [place.query, place.record])
  return (
    <main ref={top} className="min-h-0 overflow-y-auto px-6 py-4">
      {work.closed && <p className="loss pb-2">This task is closed: nothing more is counted.</p>}
      {desk.count === desk.inAll && (
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
        {problem ? (
          <ProblemNote error={problem} />
        ) : !record ? (
          <Loading what="the record" />
        ) : record.gone ? (
          <p>This record is not there any more. Press x: nobody can tell.</p>
        ) : (
          <>
            <RecordWhole
              picture={judgePicture(desk.token, record.key, true)}
              display={work.display}
              recordKey={record.key}
              values={record.field_values}
              marks={record.marks}
            />
            {isPage(record.field_values) && (
              <div className="mt-3 h-[70vh] border border-base-300">
                <JudgedPage
                  token={desk.token}
                  recordKey={record.key}
                  marks={record.marks}
                  areOf={(field, text) => valueText(record.field_values[field]) === text}
                />
              </div>
            )}
          </>
        )}
      </article>
    </main>
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

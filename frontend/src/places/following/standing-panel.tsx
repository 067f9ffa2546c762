// How a following stands: in step or behind, what keeps it, what cannot be taken, and what can be done about it.
import { useQuery } from '@tanstack/react-query'
import { useState, type ReactNode } from 'react'
import {
  agreeToFollowing,
  compareWithSource,
  endFollowing,
  goOnFollowing,
  pauseFollowing,
  unfit,
  type Ended,
  type Following,
} from '../../api/following'
import type { Collection } from '../../api/queries'
import { CopyButton } from '../../parts/copy-button'
import { ProblemNote } from '../../parts/notes'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { bytesText, countText } from '../../thinking/figures'
import { isWell, standingText, type FollowingDocument } from '../../thinking/following'
import { whenText } from '../../thinking/revisions'
import { AgreeForm } from './agree-form'

type Props = { collection: Collection; now: Following; onChange: () => void; onEnded: (how: Ended) => void }

const WAYS = {
  asking: 'asked for what changed',
  triggers: 'told by its triggers',
  decoding: 'read from its log',
} as const

export function StandingPanel({ collection, now, onChange, onEnded }: Props) {
  const { busy, problem, act } = useDoing('following', collection.name)
  const document = now.document as FollowingDocument
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-x-10 gap-y-6 px-4 py-4 lg:grid-cols-[minmax(0,1fr)_minmax(0,480px)]">
      <section aria-label="How it stands" className="min-w-0">
        <p className={`text-lg font-semibold wrap-anywhere ${isWell(now.standing) ? '' : 'loss'}`} role="status">
          {standingText(now)}
        </p>
        <p className="quiet pb-2">
          {now.title}, {WAYS[document.way]}
          {now.by_person && `; said by ${now.by_person}`}
        </p>
        {now.problem && <Trouble now={now} collection={collection} />}
        {now.standing === 'undecided' && now.outlook && (
          <AgreeForm
            outlook={now.outlook}
            busy={busy}
            onAgree={(count) => void act(() => agreeToFollowing(collection.name, count))}
          />
        )}
        <Figures now={now} way={document.way} />
        <Changing>
          <div className="flex flex-wrap items-center gap-3 pt-3">
            {now.standing === 'paused' ? (
              <button
                type="button"
                className="btn btn-primary btn-sm"
                disabled={busy}
                onClick={() => void act(() => goOnFollowing(collection.name))}
              >
                Go on
              </button>
            ) : (
              <button
                type="button"
                className="btn btn-sm"
                disabled={busy}
                onClick={() => void act(() => pauseFollowing(collection.name))}
              >
                Pause
              </button>
            )}
            <button
              type="button"
              className="btn btn-sm"
              disabled={busy || now.standing === 'paused'}
              title="Reads everything once more, and puts right what differs"
              onClick={() => void act(() => compareWithSource(collection.name, false))}
            >
              Compare everything
            </button>
            <button type="button" className="btn btn-sm" disabled={busy} onClick={onChange}>
              Say it anew
            </button>
            <EndFollowing collection={collection.name} onEnded={onEnded} />
          </div>
        </Changing>
        {problem && <ProblemNote error={problem} />}
        {now.unfit > 0 && <Unfit collection={collection.name} count={now.unfit} />}
      </section>
      <Said document={document} />
    </div>
  )
}

function Trouble({ now, collection }: { now: Following; collection: Collection }) {
  const { busy, problem, act } = useDoing('following', collection.name)
  const isOfColumns = now.problem.includes('take its columns')
  return (
    <div role="alert" className="mb-2 max-w-[80ch] border-l-[3px] border-error py-1 pl-4">
      <p className="wrap-anywhere whitespace-pre-line">{now.problem}</p>
      {now.problem_since && (
        <p className="quiet small">since {whenText(now.problem_since)}; it is tried again by itself</p>
      )}
      {isOfColumns && (
        <Changing>
          <button
            type="button"
            className="btn btn-sm mt-2"
            disabled={busy}
            onClick={() => void act(() => compareWithSource(collection.name, true))}
          >
            Take its columns as they are now
          </button>
        </Changing>
      )}
      {problem && <ProblemNote error={problem} />}
    </div>
  )
}

function Figures({ now, way }: { now: Following; way: FollowingDocument['way'] }) {
  const when = (at: string | null) => (at === null ? 'not yet' : whenText(at))
  const lines: [string, ReactNode][] = [
    ['Changes read', countText(now.changes)],
    ['Records added', countText(now.added)],
    ['changed', countText(now.updated)],
    ['deleted', countText(now.deleted)],
    ['Nothing waited last', when(now.in_step_at)],
    ['All compared last', when(now.compared_at)],
  ]
  if (way === 'asking') lines.push(['Keys compared last', when(now.swept_at)])
  if (way === 'decoding') lines.push(['Of its log it keeps for us', bytesText(now.kept_bytes)])
  return (
    <dl className="grid max-w-[420px] grid-cols-[minmax(0,1fr)_auto] gap-x-6">
      {lines.map(([name, value]) => (
        <div key={name} className="line-b col-span-2 grid grid-cols-subgrid py-1">
          <dt className="quiet">{name}</dt>
          <dd className="figure text-right">{value}</dd>
        </div>
      ))}
    </dl>
  )
}

function EndFollowing({ collection, onEnded }: { collection: string; onEnded: Props['onEnded'] }) {
  const { busy, problem, act } = useDoing('following', collection)
  const [sure, setSure] = useState(false)
  if (!sure) {
    return (
      <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={() => setSure(true)}>
        End the following
      </button>
    )
  }
  return (
    <span className="flex flex-wrap items-center gap-3">
      <span>The records stay as they are now, and can be changed here again.</span>
      <button
        type="button"
        className="btn btn-sm loss"
        autoFocus
        disabled={busy}
        onClick={() => void act(() => endFollowing(collection), { then: onEnded })}
      >
        End it
      </button>
      <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={() => setSure(false)}>
        Leave it
      </button>
      {problem && <ProblemNote error={problem} />}
    </span>
  )
}

function Unfit({ collection, count }: { collection: string; count: number }) {
  const found = useQuery(unfit(collection))
  return (
    <section aria-label="Rows that cannot be taken" className="pt-5">
      <h2 className="heading quiet pb-1">
        {countText(count)} {count === 1 ? 'row cannot become a record' : 'rows cannot become records'}
      </h2>
      <p className="quiet small max-w-[70ch] pb-1">
        What was taken of them before stays as it was; each is taken as soon as it fits.
      </p>
      <div className="overflow-x-auto">
        <table className="w-full min-w-[420px] text-left">
          <thead>
            <tr className="quiet small line-b">
              <th scope="col" className="py-1 pr-4 font-normal">
                key
              </th>
              <th scope="col" className="py-1 font-normal">
                why
              </th>
            </tr>
          </thead>
          <tbody>
            {(found.data?.rows ?? []).map((row) => (
              <tr key={row.key} className="line-b align-baseline">
                <td className="py-1 pr-4 font-mono text-[13px] wrap-anywhere">{row.key}</td>
                <td className="small wrap-anywhere">{row.reason}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {count > 100 && <p className="quiet small pt-1">The first hundred of them.</p>}
    </section>
  )
}

function Said({ document }: { document: FollowingDocument }) {
  const text = JSON.stringify(document, null, 2)
  return (
    <section aria-label="What is followed" className="min-w-0">
      <div className="flex items-baseline">
        <h2 className="heading quiet flex-1 pb-1">What is followed</h2>
        <CopyButton what="Copy the document" text={() => text} />
      </div>
      <pre dir="ltr" tabIndex={0} className="boxed-code max-h-[320px] overflow-auto p-3 text-[13px]">
        {document.query.trim()}
      </pre>
      <ul className="pt-2">
        {document.tables.map((one) => (
          <li key={one.name} className="line-b py-1">
            <b className="font-semibold">{one.name}</b>{' '}
            <code dir="ltr" className="quiet text-[13px] wrap-anywhere">
              {one.owners}
            </code>
          </li>
        ))}
      </ul>
      {document.changed_at && (
        <p className="quiet small pt-2">
          what changed is told by the column <code>{document.changed_at}</code>
        </p>
      )}
    </section>
  )
}

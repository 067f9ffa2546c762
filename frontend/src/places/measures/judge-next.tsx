// The unjudged records that matter most to a comparison, ready as a judging task.
import { useState } from 'react'
import { Link } from 'react-router'
import type { HeadToHead } from '../../api/comparing'
import { makeTask } from '../../api/judging'
import type { Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { carried, useAddress } from '../../shell/address'
import { measureText } from '../../thinking/figures'
import { useDoing } from '../judging/use-changed'

const SHOWN = 8
const MOST = 200

export function JudgeNext(props: { collection: Collection; set: string; found: HeadToHead; onOpen: (query: string) => void }) {
  const { collection, set, found } = props
  const { params } = useAddress()
  const { busy, problem, act } = useDoing(collection)
  const [judge, setJudge] = useState('')
  const [made, setMade] = useState<{ path: string; count: number } | null>(null)
  if (found.open.length === 0) return <p className="quiet small pt-4">Everything that counts here is judged.</p>
  const decide = Math.min(MOST, found.open.length, Math.max(1, found.enough))
  const textOf = (id: string) => found.queries.find((one) => one.query_id === id)?.query ?? id
  return (
    <div className="pt-5" aria-label="What to judge next">
      <h2 className="heading quiet pb-1">What to judge next</h2>
      <p className="small pb-1">
        {found.enough === 0
          ? `${found.open_in_all} unjudged records count here, but all of them together could not turn the difference around.`
          : found.enough <= MOST
            ? `These ${found.enough} judgments would decide it: what stays unjudged then could not turn the difference around as it stands.`
            : `It would take ${found.enough} judgments to decide it; these matter most.`}
      </p>
      <ul>
        {found.open.slice(0, SHOWN).map((one) => (
          <li key={`${one.query} ${one.record}`} className="line-b small flex gap-2 py-[3px]" title={`If it is exactly it rather than off topic, the gain changes by ${measureText(Math.abs(one.swing))}; rank ${one.ranks[0] || 'none'} and ${one.ranks[1] || 'none'}`}>
            <button type="button" className="max-w-[40%] cursor-pointer truncate text-left font-semibold" onClick={() => props.onOpen(textOf(one.query))}>
              {textOf(one.query)}
            </button>
            <span className="min-w-0 flex-1 truncate">{found.titles[one.record] ?? one.record}</span>
            <span className="figure">±{measureText(Math.abs(one.swing))}</span>
          </li>
        ))}
      </ul>
      {found.open.length > SHOWN && <p className="quiet small pt-1">and {found.open_in_all - SHOWN} more</p>}
      {made ? (
        <p role="status" className="pt-2">
          {made.count} records are ready:{' '}
          <a className="link" href={made.path} target="_blank" rel="noreferrer">
            judge them
          </a>
          , or send the link from{' '}
          <Link className="link" to={`/${collection.name}/judging${carried(params, { view: 'tasks' })}`}>
            Judging
          </Link>
          .
        </p>
      ) : (
        <form
          className="flex items-center gap-2 pt-2"
          onSubmit={async (event) => {
            event.preventDefault()
            const items = found.open.slice(0, decide).map((one) => ({ query_id: one.query, record_key: one.record }))
            const tasks = await act(() =>
              makeTask(collection.name, set, { name: `To decide ${found.names[0]} or ${found.names[1]}`, judges: [judge], sides: [], depth: 1, others: 0, twice: 0, leave_out_judged: true, items }),
            )
            const path = tasks?.[0]?.judges[0]?.path
            if (path) setMade({ path, count: items.length })
          }}
        >
          <input aria-label="Who judges" required maxLength={200} placeholder="who judges" className="input input-sm w-[150px] border-base-300 bg-transparent" value={judge} onChange={(event) => setJudge(event.target.value)} />
          <button type="submit" className="btn btn-sm" disabled={busy || judge.trim() === ''}>
            Make a task of {decide}
          </button>
        </form>
      )}
      {problem && <ProblemNote error={problem} />}
    </div>
  )
}

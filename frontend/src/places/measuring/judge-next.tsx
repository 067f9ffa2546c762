// The unjudged records that matter most to a comparison, ready as a judging task.
import type { HeadToHead, Side } from '../../api/comparing'
import type { Collection } from '../../api/queries'
import { measureText } from '../../thinking/figures'
import { TaskOfRecords } from '../judging/task-of-records'

const SHOWN = 8
const MOST = 200

export function JudgeNext(props: {
  collection: Collection
  set: string
  found: HeadToHead
  sides: Side[]
  onOpen: (query: string) => void
}) {
  const { collection, set, found, sides } = props
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
          <li
            key={`${one.query} ${one.record}`}
            className="line-b small flex gap-2 py-[3px]"
            title={`If it is exactly it rather than off topic, the gain changes by ${measureText(Math.abs(one.swing))}; rank ${one.ranks[0] || 'none'} and ${one.ranks[1] || 'none'}`}
          >
            <button
              type="button"
              className="max-w-[40%] cursor-pointer truncate text-left font-semibold"
              onClick={() => props.onOpen(textOf(one.query))}
            >
              {textOf(one.query)}
            </button>
            <span className="min-w-0 flex-1 truncate">{found.titles[one.record] ?? one.record}</span>
            <span className="figure">±{measureText(Math.abs(one.swing))}</span>
          </li>
        ))}
      </ul>
      {found.open.length > SHOWN && <p className="quiet small pt-1">and {found.open_in_all - SHOWN} more</p>}
      <TaskOfRecords
        collection={collection}
        set={set}
        name={`${set}: what tells most`}
        sides={sides}
        items={found.open.slice(0, decide).map((one) => ({ query_id: one.query, record_key: one.record }))}
      />
    </div>
  )
}

// What can be done with the row in view: grade it for the open query, open its record, complain.
import { Link } from 'react-router'
import { settleGrade } from '../../api/judging'
import type { JudgedSet } from '../../api/queries'
import { carried, useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { useDoing } from '../../shell/use-doing'
import { Changing } from '../../shell/changing'

const GRADES = [
  [0, 'off topic'],
  [1, 'related'],
  [2, 'useful'],
  [3, 'exactly it'],
] as const

export function RowTools(props: {
  collection: string
  set: string | null
  judged: JudgedSet['queries'][number] | null
  recordKey: string
}) {
  const { collection, set, judged, recordKey } = props
  const { params, change } = useAddress()
  const { busy, problem, act } = useDoing('judging', collection)
  const given = judged?.grades[recordKey]
  // A grade given here settles what judges said; null leaves it to them again.
  const grade = (to: number | null) => {
    if (set === null || judged === null || busy || to === given) return
    void act(() => settleGrade(collection, set, judged.query_id, recordKey, to, ''))
  }
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey || !/^[0-3]$/.test(event.key)) return
    grade(Number(event.key))
  })
  return (
    <div className="small flex flex-wrap items-baseline gap-x-3 gap-y-1 pr-4 pb-2 pl-[94px] max-sm:pl-4">
      <Changing>
        {judged !== null && set !== null ? (
          <span role="group" aria-label="Grade of this record" className="flex items-baseline gap-1">
            <span className="quiet">grade</span>
            {GRADES.map(([to, meaning]) => (
              <button
                key={to}
                type="button"
                aria-pressed={given === to}
                disabled={busy}
                title={`${meaning} (${to}): settles it, whatever judges said`}
                className={`min-w-[24px] cursor-pointer border px-1 ${given === to ? 'border-primary font-semibold' : 'border-base-300'}`}
                onClick={() => grade(to)}
              >
                {to}
              </button>
            ))}
            <button
              type="button"
              className="link ml-1"
              disabled={busy}
              title="Takes back a grade that was settled by hand"
              onClick={() => grade(null)}
            >
              as judged
            </button>
          </span>
        ) : (
          <button type="button" className="link" onClick={() => change({ complaint: 'yes' })}>
            judge this query
          </button>
        )}
      </Changing>
      <Link className="link" to={`/${collection}/records${carried(params, { view: 'browse', key: recordKey })}`}>
        record {recordKey}
      </Link>
      <button type="button" className="link" onClick={() => change({ tab: 'not', key: recordKey })}>
        why no higher
      </button>
      {problem && <span className="loss">{problem.message}</span>}
    </div>
  )
}

// What the draft misses of the judged set: each query's good records that are not found, or too far down, with reasons.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { judgedSet, missed, type Collection } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { DepthChoice, depthOf, foundText, MissedRecords } from '../../parts/missed-records'
import { ProblemNote } from '../../parts/notes'
import { TakeAway } from '../../parts/take-away'
import { carried, useAddress } from '../../shell/address'
import { useDraft } from '../../shell/use-draft'
import { measureText } from '../../thinking/figures'
import { askedAs } from '../../thinking/judging'
import { byRecall, meanRecall, missedTable } from '../../thinking/missed'

// Queries shown at a time.
const STEP = 40
// Records shown of each until the others are asked for.
const FIRST = 5

export function MissedView({ collection, set }: { collection: Collection; set: string }) {
  const { params, change } = useAddress()
  const { draft, error } = useDraft(collection)
  const navigate = useNavigate()
  const depth = depthOf(params.get('depth'))
  const [most, setMost] = useState(STEP)
  const judged = useQuery(judgedSet(collection.name, set))
  const answer = useQuery({
    ...missed(collection, set, draft?.choice ?? {}, depth),
    enabled: draft !== null,
  })
  if (error) return <ProblemNote error={error} />
  if (!answer.data || !judged.data) return <Unanswered asked={[answer, judged]} what="what is missed" />
  const { queries } = answer.data
  const { missing, whole } = byRecall(queries)
  const open = (queryId: string, key: string | null) => {
    const query = judged.data.queries.find((one) => one.query_id === queryId)
    if (query)
      navigate(
        `/${collection.name}/ranking${carried(params, { ...askedAs(query), ...(key === null ? {} : { tab: 'not', key }) })}`,
      )
  }
  return (
    <Kept asked={[answer]} what="what is missed" className="h-full">
      <div className="h-full overflow-y-auto" tabIndex={0} role="region" aria-label="What is missed">
        <div className="line-b flex flex-wrap items-baseline gap-x-6 gap-y-1 px-4 py-3">
          <p>
            mean recall <b className="text-[16px] font-semibold">{measureText(meanRecall(queries))}</b>{' '}
            <span className="quiet small">
              among the first {answer.data.depth}, over {queries.length} queries with good records
            </span>
          </p>
          <DepthChoice depth={depth} onChoose={(next) => change({ depth: next === 10 ? null : String(next) })} />
          <TakeAway what="what is missed" file={`${set}-missed`} rows={() => missedTable(missing)} />
        </div>
        {missing.length === 0 && <p className="quiet p-4">Nothing that was judged good is missed.</p>}
        {missing.slice(0, most).map((one) => (
          <section key={one.query_id} aria-label={one.query} className="line-b px-4 py-2">
            <h2 className="flex flex-wrap items-baseline gap-x-3">
              <button
                type="button"
                dir="auto"
                className="cursor-pointer font-semibold"
                onClick={() => open(one.query_id, null)}
              >
                {one.query}
              </button>
              <span className="figure">{one.recall.toFixed(3)}</span>
              <span className="quiet small">{foundText(one, answer.data.depth)}</span>
            </h2>
            <MissedRecords missed={one} first={FIRST} onOpen={(key) => open(one.query_id, key)} />
          </section>
        ))}
        {missing.length > most && (
          <p className="px-4 py-2">
            <button type="button" className="link" onClick={() => setMost(most + STEP)}>
              {Math.min(STEP, missing.length - most)} more of {missing.length - most}
            </button>
          </p>
        )}
        {whole > 0 && missing.length > 0 && (
          <p className="quiet small px-4 py-2">
            {whole} {whole === 1 ? 'query misses' : 'queries miss'} nothing.
          </p>
        )}
      </div>
    </Kept>
  )
}

// The good records of the open query that the draft does not find, or finds too far down.
import { useQuery } from '@tanstack/react-query'
import { missed, type Collection, type JudgedSet, type RankerChoice } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { DepthChoice, depthOf, foundText, MissedRecords } from '../../parts/missed-records'
import { useAddress } from '../../shell/address'

export function MissedPanel(props: {
  collection: Collection
  set: string | null
  judgedQuery: JudgedSet['queries'][number] | undefined
  choice: RankerChoice
}) {
  const { collection, set, judgedQuery, choice } = props
  const { params, change } = useAddress()
  const depth = depthOf(params.get('depth'))
  const isAsked = set !== null && judgedQuery !== undefined
  const answer = useQuery({
    ...missed(collection, set ?? '', choice, depth, judgedQuery?.query_id ?? null),
    enabled: isAsked,
  })
  if (!isAsked)
    return (
      <p className="quiet p-4">
        This query is not judged, so nobody knows what should be here. Why not (n) asks after one record.
      </p>
    )
  const own = answer.data?.queries[0]
  return (
    <div className="px-4 py-3">
      <div className="pb-2">
        <DepthChoice depth={depth} onChoose={(next) => change({ depth: next === 10 ? null : String(next) })} />
      </div>
      {!answer.data ? (
        <Unanswered asked={[answer]} what="what is missed" />
      ) : (
        <Kept asked={[answer]} what="what is missed">
          {own === undefined ? (
            <p className="quiet">No record was judged good for this query.</p>
          ) : (
            <>
              <p className="pb-2">
                recall <b className="font-semibold">{own.recall.toFixed(3)}</b>
                <span className="quiet small">: {foundText(own, answer.data.depth)}</span>
              </p>
              {own.records.length === 0 && <p className="quiet">Nothing that was judged good is missed.</p>}
              <MissedRecords missed={own} onOpen={(key) => change({ tab: 'not', key })} />
            </>
          )}
        </Kept>
      )}
    </div>
  )
}

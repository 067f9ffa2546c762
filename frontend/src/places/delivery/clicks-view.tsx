// What clicks say of records, for judges to confirm: allowing for where a record stood, and with how sure that is.
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { gradesByClicks, type SuggestedGrade } from '../../api/delivery'
import { Kept, Unanswered } from '../../parts/answered'
import { GradeRungs } from '../../parts/grade-rungs'
import { Select } from '../../parts/select'
import { TakeAway } from '../../parts/take-away'
import { carried, useAddress } from '../../shell/address'
import { useSetName } from '../../shell/use-draft'
import { DAYS, sureText } from '../../thinking/delivery'
import { ConfirmingForm } from './confirming-form'
import type { DeliveryProps } from './delivery-props'

export function ClicksView({ collection }: DeliveryProps) {
  const { params, change } = useAddress()
  const set = useSetName(collection)
  const days = DAYS.find(([one]) => one === params.get('days'))?.[0] ?? '30'
  const found = useQuery(gradesByClicks(collection.name, Number(days)))
  return (
    <div className="px-4 py-3">
      <div className="flex flex-wrap items-center gap-3 pb-2">
        <p className="quiet max-w-[72ch] min-w-[240px] flex-1">
          A record that is read and clicked, and after which nobody goes on, is good; one far down that nobody clicks
          was perhaps never read. These are suggestions: no grade counts before a judge gives it.
        </p>
        <Select
          label="Of how long"
          className="select select-sm w-auto border-base-300 bg-transparent"
          value={days}
          choices={DAYS}
          onChoose={(to) => change({ days: to })}
        />
        {set !== null && found.data && found.data.length > 0 && (
          <ConfirmingForm collection={collection} set={set} days={Number(days)} />
        )}
        {found.data && (
          <TakeAway
            what="the suggestions"
            file={`${collection.name}-suggested-grades`}
            rows={() => [
              ['query', 'record', 'title', 'grade', 'from', 'to', 'good', 'deviation', 'read', 'clicked'],
              ...found.data.map((one) => [
                ...[one.query, one.key, one.title, one.grade, one.low, one.high],
                ...[one.appeal.good, one.appeal.deviation, one.appeal.read, one.appeal.clicked],
              ]),
            ]}
          />
        )}
      </div>
      {!found.data ? (
        <Unanswered asked={[found]} what="what clicks say" />
      ) : found.data.length === 0 ? (
        <p className="quiet py-4">Nothing was clicked often enough in this time to say anything.</p>
      ) : (
        <Kept asked={[found]} what="what clicks say">
          <div className="overflow-x-auto">
            <table aria-label="Suggested grades" className="w-full min-w-[640px] text-left">
              <thead>
                <tr className="quiet small line-b">
                  {['query', 'record', 'suggested', 'how sure'].map((name) => (
                    <th key={name} scope="col" className="py-1 pr-4 font-normal">
                      {name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {found.data.slice(0, 500).map((one) => (
                  <Line key={`${one.query} ${one.key}`} one={one} collection={collection.name} params={params} />
                ))}
              </tbody>
            </table>
          </div>
        </Kept>
      )}
    </div>
  )
}

function Line({ one, collection, params }: { one: SuggestedGrade; collection: string; params: URLSearchParams }) {
  return (
    <tr className="line-b align-baseline">
      <td className="max-w-[260px] py-1 pr-4">
        <Link
          dir="auto"
          className="link block truncate"
          title={one.query}
          to={`/${collection}/ranking${carried(params, { q: one.query, key: one.key })}`}
        >
          {one.query}
        </Link>
      </td>
      <td dir="auto" className="max-w-[300px] truncate pr-4" title={one.key}>
        {one.title || one.key}
      </td>
      <td className="pr-4">
        <GradeRungs grade={one.grade} />
      </td>
      <td className="quiet small">{sureText(one)}</td>
    </tr>
  )
}

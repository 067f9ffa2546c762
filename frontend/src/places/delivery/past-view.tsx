// What visitors asked: the queries that are worth a look, one key away from being judged ones.
import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import { askedByVisitors, rewrittenByVisitors, type PastAsked, type PastDay } from '../../api/delivery'
import { addQuery } from '../../api/judging'
import type { Collection } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { Select } from '../../parts/select'
import { TakeAway } from '../../parts/take-away'
import { TakeTable } from '../../parts/take-table'
import { carried, useAddress } from '../../shell/address'
import { Changing } from '../../shell/changing'
import { typing, useKeys } from '../../shell/keys'
import { useDoing } from '../../shell/use-doing'
import { useSetName } from '../../shell/use-draft'
import { DAYS, dayBars, NONE_OF, ORDERS, shareText, synonymLines, whyHere } from '../../thinking/delivery'
import { countText } from '../../thinking/figures'
import type { DeliveryProps } from './delivery-props'
import { LogFile } from './log-file'
import { OfferForm } from './offer-form'
import { SampleForm } from './sample-form'

export function PastView({ collection }: DeliveryProps) {
  const { params, change } = useAddress()
  const order = ORDERS.find(([one]) => one === params.get('order'))?.[0] ?? 'frequent'
  const days = DAYS.find(([one]) => one === params.get('days'))?.[0] ?? '7'
  const found = useQuery(askedByVisitors(collection.name, order, Number(days)))
  return (
    <div className="px-4 py-3">
      <div className="flex flex-wrap items-center gap-3 pb-2">
        <Select
          label="Which queries"
          className="select select-sm w-auto border-base-300 bg-transparent"
          value={order}
          choices={ORDERS}
          onChoose={(to) => change({ order: to })}
        />
        <Select
          label="Of how long"
          className="select select-sm w-auto border-base-300 bg-transparent"
          value={days}
          choices={DAYS}
          onChoose={(to) => change({ days: to })}
        />
        <span className="flex-1" />
        <LogFile collection={collection} />
        <OfferForm collection={collection} days={Number(days)} />
        <SampleForm collection={collection} days={Number(days)} />
      </div>
      {found.data ? (
        <Kept asked={[found]} what="what was asked">
          <Days days={found.data.days} />
          {found.data.queries.length === 0 ? (
            <p className="quiet py-4">{NONE_OF[order]}</p>
          ) : (
            <Queries collection={collection} queries={found.data.queries} order={order} />
          )}
        </Kept>
      ) : (
        <Unanswered asked={[found]} what="what was asked" />
      )}
      <Rewritings collection={collection} days={Number(days)} />
    </div>
  )
}

function Days({ days }: { days: PastDay[] }) {
  const bars = dayBars(days)
  const [asked, nothing, given] = (['asked', 'nothing', 'given_up'] as const).map((name) =>
    days.reduce((sum, one) => sum + one[name], 0),
  ) as [number, number, number]
  if (asked === 0) return null
  return (
    <div className="flex flex-wrap items-end gap-x-6 gap-y-2 pb-3">
      <div
        role="img"
        aria-label={`${countText(asked)} queries in ${bars.length} days`}
        className="flex h-[48px] max-w-[520px] min-w-[120px] flex-1 items-end gap-px"
      >
        {bars.map((one) => (
          <span
            key={one.day}
            title={`${one.day}: ${countText(one.asked)} asked, ${countText(one.nothing)} found nothing`}
            className="min-w-[2px] flex-1 bg-secondary"
            style={{ height: `${Math.max(2, 100 * one.share)}%` }}
          />
        ))}
      </div>
      <p className="quiet small">
        {countText(asked)} asked; {shareText(nothing, asked)} found nothing, {shareText(given, asked)} were given up.
      </p>
    </div>
  )
}

function Queries(props: { collection: Collection; queries: PastAsked[]; order: (typeof ORDERS)[number][0] }) {
  const { collection, queries, order } = props
  const { params } = useAddress()
  const set = useSetName(collection)
  const { busy, problem, act } = useDoing('judging', collection.name)
  const [at, setAt] = useState(0)
  const [added, setAdded] = useState<string | null>(null)
  const judge = (one: PastAsked | undefined) => {
    if (!one || set === null) return
    const body = { ...NEW_QUERY, query: one.query, asked: one.asked, language: one.language || null }
    void act(() => addQuery(collection.name, set, body), { then: () => setAdded(one.query) })
  }
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
    if (event.key === 'j') setAt(Math.min(at + 1, queries.length - 1))
    else if (event.key === 'k') setAt(Math.max(at - 1, 0))
    else if (event.key === 'q' && !busy) judge(queries[at])
  })
  return (
    <section aria-label="Queries">
      {problem && <ProblemNote error={problem} />}
      <p role="status" className="small min-h-[20px]">
        {added !== null && set !== null && `“${added}” is in ${set}.`}
      </p>
      <div className="overflow-x-auto">
        <table className="w-full min-w-[680px] text-left">
          <thead>
            <tr className="quiet small line-b">
              <th className="py-1 pr-4 font-normal">query</th>
              <th className="pr-4 text-right font-normal">asked</th>
              <th className="pr-4 text-right font-normal">found</th>
              <th className="pr-4 font-normal"></th>
              <th className="text-right font-normal">
                <TakeTable what="the queries" file={`${collection.name}-${order}`} />
              </th>
            </tr>
          </thead>
          <tbody>
            {queries.map((one, place) => (
              <Line
                key={one.query}
                one={one}
                says={whyHere(one, order)}
                to={`/${collection.name}/ranking${carried(params, { q: one.query })}`}
                isHere={place === at}
                busy={busy}
                onJudge={set === null ? null : () => judge(one)}
              />
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}

// onJudge: null where there is no judged set.
function Line(props: {
  one: PastAsked
  says: string
  to: string
  isHere: boolean
  busy: boolean
  onJudge: (() => void) | null
}) {
  const { one } = props
  return (
    <tr
      aria-current={props.isHere ? 'true' : undefined}
      className={`line-b align-baseline ${props.isHere ? 'bg-base-200' : ''}`}
    >
      <td className="max-w-[360px] py-1 pr-4">
        <Link dir="auto" className="link block truncate" title={one.query} to={props.to}>
          {one.query}
        </Link>
      </td>
      <td className="figure pr-4">{countText(one.asked)}</td>
      <td className={`figure pr-4 ${one.found === 0 ? 'loss' : ''}`}>
        {one.found === null ? '' : countText(one.found)}
      </td>
      <td className="quiet small pr-4">{props.says}</td>
      <td className="text-right whitespace-nowrap">
        {one.judged > 0 && <span className="quiet small">judged</span>}
        {one.judged === 0 && props.onJudge && (
          <Changing>
            <button
              type="button"
              className="btn btn-ghost btn-xs font-normal"
              disabled={props.busy}
              aria-label={`Judge ${one.query}`}
              onClick={props.onJudge}
            >
              Judge it
            </button>
          </Changing>
        )}
      </td>
    </tr>
  )
}

const NEW_QUERY = {
  query: '',
  need: '',
  tags: [],
  filters: [],
  asked: null,
  language: null,
  nothing_to_find: false,
  locked: null,
}

function Rewritings({ collection, days }: { collection: Collection; days: number }) {
  const { params } = useAddress()
  const found = useQuery(rewrittenByVisitors(collection.name, days))
  const synonyms = useMemo(() => synonymLines(found.data ?? []), [found.data])
  if (!found.data || found.data.length === 0) return null
  return (
    <Kept asked={[found]} what="what was typed next" className="pt-6">
      <section aria-label="What visitors typed next">
        <div className="flex items-baseline gap-3">
          <h2 className="heading quiet flex-1">What visitors typed next, where the first words found them nothing</h2>
          <TakeTable what="what was typed next" file={`${collection.name}-typed-next`} />
        </div>
        {synonyms.length > 0 && (
          <p className="quiet small">
            One word for another, as a list of synonyms:
            <TakeAway what="the synonyms" file={`${collection.name}-synonyms`} rows={() => synonyms} />
            <Link className="link" to={`/${collection.name}/chains${carried(params, { aside: 'lists' })}`}>
              Word lists
            </Link>
          </p>
        )}
        <div className="overflow-x-auto">
          <table className="w-full min-w-[560px] text-left">
            <tbody>
              {found.data.slice(0, 100).map((one) => (
                <tr key={`${one.first} ${one.then}`} className="line-b align-baseline">
                  <td dir="auto" className="max-w-[260px] truncate py-1 pr-4" title={one.first}>
                    {one.first}
                  </td>
                  <td dir="auto" className="max-w-[260px] truncate pr-4" title={one.then}>
                    {one.then}
                  </td>
                  <td className="quiet small pr-4">{one.kind}</td>
                  <td className="figure">{countText(one.sessions)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </section>
    </Kept>
  )
}

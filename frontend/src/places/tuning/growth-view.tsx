// Growth: what the collection would be at 10, 100 and 1,000 times its records. An estimate, and it says of what.
import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import type { Collection } from '../../api/queries'
import { beginGrowth, cancelGrowth, growths, type AtSize, type Growth } from '../../api/tuning'
import { Kept, Unanswered } from '../../parts/answered'
import { Empty, ProblemNote } from '../../parts/notes'
import { TakeAway } from '../../parts/take-away'
import { useDoing } from '../../shell/use-doing'
import { bytesText, countText, deltaText, measureText } from '../../thinking/figures'
import { growthTable, secondsLong } from '../../thinking/growth'
import { isOfDraft } from '../../thinking/ledger'
import { JobHead } from './job-head'
import { usePlan } from './use-plan'

export function GrowthView({ collection, set }: { collection: Collection; set: string }) {
  const found = useQuery(growths(collection.name))
  const { error, plan, name, by } = usePlan(collection)
  const { busy, problem, act } = useDoing('tuning', collection.name)
  if (error) return <ProblemNote error={error} />
  if (!found.data || plan === null) return <Unanswered asked={[found]} what="the estimates" />
  const own = found.data.find((one) => isOfDraft(one, plan, set))
  const isRunning = own?.state === 'running' || own?.state === 'waiting'
  const estimate = own?.estimate ?? null
  return (
    <Kept asked={[found]} what="the estimate" className="h-full">
      <div className="h-full overflow-y-auto" tabIndex={0} role="region" aria-label="Growth">
        <JobHead
          says={
            <>
              {collection.name} as it would be with more records, by {name}: {by} on {set}
            </>
          }
          state={own?.state}
          progress={own?.phase ? `${own.phase}: ${own.done} of ${own.in_all} steps` : 'waiting for its turn'}
          busy={busy}
          make="Estimate it"
          onMake={() => void act(() => beginGrowth(collection.name, set, plan))}
          onCancel={() => own && void act(() => cancelGrowth(collection.name, own.id))}
        >
          {estimate && (
            <TakeAway what="the estimate" file={`${collection.name}-growth`} rows={() => growthTable(estimate)} />
          )}
        </JobHead>
        {problem && <ProblemNote error={problem} />}
        {own?.problem && own.state !== 'cancelled' && <p className="loss px-4 py-2">{own.problem}</p>}
        {own && !own.is_current && estimate && (
          <p role="note" className="loss px-4 pt-2">
            Records or judgments changed since this was estimated: make it anew.
          </p>
        )}
        {estimate ? (
          <Estimated estimate={estimate} by={by} />
        ) : (
          !isRunning && (
            <Empty title="Not estimated yet">
              Its words tell how its vocabulary would grow, its records how large its index would be, and a collection
              several times as large, made up of its own records, how long a search would take. The measure is taken on
              parts of it, and its trend continued. It takes about as long as the index took to be built.
            </Empty>
          )
        )}
      </div>
    </Kept>
  )
}

type Of = NonNullable<Growth['estimate']>

const ROWS: readonly [string, (one: AtSize, now: AtSize) => ReactNode][] = [
  ['Records', (one) => countText(one.records)],
  ['Terms of its readings', (one) => countText(one.terms)],
  ['Index', (one) => bytesText(one.index_bytes)],
  ['Vectors', (one) => (one.vector_bytes > 0 ? bytesText(one.vector_bytes) : '–')],
  ['Built anew in', (one) => secondsLong(one.build_s)],
  ['Words looked up, half of the queries within', (one) => msText(one.times_ms.looking_up_p50)],
  ['nineteen of twenty within', (one) => msText(one.times_ms.looking_up_p95)],
  ['Ranked, half within', (one) => msText(one.times_ms.ranking_p50)],
  ['nineteen of twenty within', (one) => msText(one.times_ms.ranking_p95)],
  ['The whole search, half within', (one) => <b className="font-semibold">{msText(one.times_ms.all_p50)}</b>],
  ['nineteen of twenty within', (one) => <b className="font-semibold">{msText(one.times_ms.all_p95)}</b>],
]

const msText = (ms: number) =>
  ms < 10 ? `${ms.toFixed(2)} ms` : ms < 1_000 ? `${Math.round(ms)} ms` : secondsLong(ms / 1_000)

function Estimated({ estimate, by }: { estimate: Of; by: string }) {
  const [now] = estimate.sizes
  if (!now) return null
  return (
    <div className="px-4 py-4">
      <p className="max-w-[80ch] pb-3">
        An estimate. What is known is in the first column;{' '}
        {estimate.made_up.length > 0
          ? `times at ${estimate.made_up.map(countText).join(' and ')} times the records were measured on collections made up of these, those beyond are continued in a straight line.`
          : 'times are continued in a straight line.'}
      </p>
      <div className="overflow-x-auto">
        <table className="w-full max-w-[980px] text-left">
          <thead>
            <tr className="quiet small line-b">
              <th scope="col" className="py-1 pr-4 font-normal">
                <span className="sr-only">what</span>
              </th>
              {estimate.sizes.map((one) => (
                <th key={one.times} scope="col" className="py-1 pl-4 text-right font-normal">
                  {one.times === 1 ? 'as it is' : `${countText(one.times)} times`}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {ROWS.map(([name, figure], i) => (
              <tr key={i} className="line-b">
                <th scope="row" className={`py-1 pr-4 font-normal ${name.startsWith('nineteen') ? 'quiet pl-4' : ''}`}>
                  {name}
                </th>
                {estimate.sizes.map((one) => (
                  <td key={one.times} className="figure py-1 pl-4 text-right whitespace-nowrap">
                    {figure(one, now)}
                  </td>
                ))}
              </tr>
            ))}
            <tr className="line-b">
              <th scope="row" className="py-1 pr-4 font-normal">
                {by}, by its trend
              </th>
              {estimate.sizes.map((one) => (
                <td key={one.times} className="figure py-1 pl-4 text-right whitespace-nowrap">
                  <b className="font-semibold">{measureText(one.value)}</b>
                  {one.times > 1 && (
                    <span className="quiet small block">
                      {measureText(one.low)} to {measureText(one.high)}
                    </span>
                  )}
                </td>
              ))}
            </tr>
          </tbody>
        </table>
      </div>
      <Grounds estimate={estimate} by={by} />
    </div>
  )
}

function Grounds({ estimate, by }: { estimate: Of; by: string }) {
  const grown = Object.entries(estimate.beta)
  return (
    <section aria-label="What it is of" className="max-w-[80ch] pt-5">
      <h2 className="heading quiet pb-1">What it is of</h2>
      <p>
        {by} changes by <span className="tabular-nums">{deltaText(estimate.by_doubling)}</span> with each doubling, as
        measured on parts of the records, by the judgments of these alone:
      </p>
      <ul className="pb-2">
        {estimate.subsamples.map((one) => (
          <li key={one.share} className="tabular-nums">
            {countText(one.records)} records:{' '}
            {one.values.map((value) => measureText(value)).join(', ') || 'nothing judged'}
          </li>
        ))}
      </ul>
      <p>
        Vocabularies grow by Heaps’ law, with the power of the tokens that was fitted to each reading:{' '}
        {grown.map(([name, beta]) => `${name} ${beta.toFixed(2)}`).join(', ')}.
      </p>
      <p className="quiet small pt-1">
        {countText(estimate.queries)} judged queries were timed, each three times, the quickest counts.
        {estimate.has_spaces && ' What meaning costs grows as the vectors do, each of which is compared.'} Records that
        are unlike these, other words that are asked for, and disks are not in it.
      </p>
    </section>
  )
}

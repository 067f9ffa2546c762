// The waterline: one stroke per judged query, above the line if the draft gains on the baseline,
// below if it loses, sorted; ties counted apart; binned when there are more strokes than room.
import type { UseQueryResult } from '@tanstack/react-query'
import type { JudgedSet } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { Delta } from '../../parts/delta'
import { useAddress } from '../../shell/address'
import type { Meter } from '../../shell/use-meter'
import { deltaText } from '../../thinking/figures'
import { binned } from '../../thinking/movement'
import { askedAs } from '../../thinking/judging'

const ROOM = 160
const HALF = 22

export function WaterlineFoot(props: {
  meter: Meter | null
  asked: UseQueryResult<unknown>[]
  queries: JudgedSet['queries']
  isMeasured: boolean
  open: string | null
  isBaseline: boolean
}) {
  return (
    <footer aria-label="Waterline" className="line-t col-span-3 h-[76px] px-4">
      <Line {...props} />
    </footer>
  )
}

function Line(props: Parameters<typeof WaterlineFoot>[0]) {
  const { meter, asked, queries } = props
  const { change } = useAddress()
  const strokes = meter?.line.strokes ?? []
  const bars = binned(strokes, ROOM)
  const most = Math.max(0.1, ...bars.map((bar) => Math.abs(bar.delta)))
  const queryOf = (id: string) => queries.find((query) => query.query_id === id)
  if (!meter && props.isMeasured) return <Unanswered asked={asked} what="what it did to the judged queries" />
  return (
    <Kept asked={meter ? asked : []} what="the waterline" className="flex h-full items-center gap-4">
      <div className="w-[212px] shrink-0 text-[14px]">
        {!meter ? (
          <span className="quiet">No judged set, so no waterline.</span>
        ) : props.isBaseline ? (
          <span className="quiet">The draft is the baseline: every judged query stands still.</span>
        ) : (
          <>
            <div>
              <span className="quiet">mean nDCG@10</span> <Delta value={meter.gain} />
            </div>
            <div className="quiet small">
              {meter.line.gained} gained, {meter.line.lost} lost, {meter.line.still} still
            </div>
          </>
        )}
      </div>
      <div className="relative flex h-[60px] min-w-0 flex-1 items-center">
        <span aria-hidden className="absolute inset-x-0 top-1/2 h-px bg-base-content/60" />
        <div className="flex h-full min-w-0 flex-1">
          {bars.map((bar) => {
            const first = bar.strokes[0]
            const query = first && queryOf(first.queryId)
            const height = Math.max(3, (Math.abs(bar.delta) / most) * HALF)
            const up = bar.delta > 0
            const label =
              bar.strokes.length === 1 && query
                ? `${query.query}: ${deltaText(bar.delta)}`
                : `${bar.strokes.length} queries, ${deltaText(bar.delta)} on average`
            return (
              <button
                key={bar.from}
                type="button"
                aria-label={label}
                title={label}
                className="relative h-full max-w-[22px] min-w-[3px] flex-1 cursor-pointer hover:bg-base-200"
                onClick={() => query && change({ f: null, ...askedAs(query), row: null }, false)}
              >
                <span
                  className="absolute left-1/2 w-[55%] max-w-[9px] -translate-x-1/2"
                  style={{
                    height,
                    [up ? 'bottom' : 'top']: '50%',
                    background: up ? 'var(--gain)' : 'var(--loss)',
                    outline: first?.queryId === props.open ? '2px solid var(--color-primary)' : undefined,
                    outlineOffset: 1,
                  }}
                />
              </button>
            )
          })}
        </div>
      </div>
    </Kept>
  )
}

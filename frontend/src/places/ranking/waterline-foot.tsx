// The waterline: one stroke per judged query, above the line if the draft gains on the baseline,
// below if it loses, sorted; ties counted apart; binned when there are more strokes than room.
import { useRef, useState } from 'react'
import type { UseQueryResult } from '@tanstack/react-query'
import type { JudgedSet } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { Delta } from '../../parts/delta'
import { useAddress } from '../../shell/address'
import type { Meter } from '../../shell/use-meter'
import { deltaText, MEASURE_NAMES } from '../../thinking/figures'
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
    <footer aria-label="Waterline" className="line-t col-span-3 min-h-[76px] px-4">
      <Line {...props} />
    </footer>
  )
}

function Line(props: Parameters<typeof WaterlineFoot>[0]) {
  const { meter, asked, queries } = props
  const strokes = meter?.line.strokes ?? []
  const bars = binned(strokes, ROOM)
  const queryOf = (id: string) => queries.find((query) => query.query_id === id)
  if (!meter && props.isMeasured) return <Unanswered asked={asked} what="what it did to the judged queries" />
  return (
    <Kept asked={meter ? asked : []} what="the waterline" className="flex h-full flex-wrap items-center gap-x-4">
      <div className="w-[212px] shrink-0 text-[14px]">
        {!meter ? (
          <span className="quiet">No judged set, so no waterline.</span>
        ) : props.isBaseline ? (
          <span className="quiet">The draft is the baseline: every judged query stands still.</span>
        ) : (
          <>
            <div>
              <span className="quiet">mean {MEASURE_NAMES[meter.measure]}</span> <Delta value={meter.gain} />
            </div>
            <div className="quiet small">
              {meter.line.gained} gained, {meter.line.lost} lost, {meter.line.still} still
            </div>
          </>
        )}
      </div>
      <Strokes bars={bars} open={props.open} queryOf={queryOf} />
    </Kept>
  )
}

function Strokes({
  bars,
  open,
  queryOf,
}: {
  bars: ReturnType<typeof binned>
  open: string | null
  queryOf: (id: string) => JudgedSet['queries'][number] | undefined
}) {
  const { change } = useAddress()
  const most = Math.max(0.1, ...bars.map((bar) => Math.abs(bar.delta)))
  // One stroke is come to by Tab, the others from there by the arrows.
  const [at, setAt] = useState(0)
  const row = useRef<HTMLDivElement>(null)
  const step = (by: number) => {
    const next = Math.max(0, Math.min(bars.length - 1, Math.min(at, bars.length - 1) + by))
    setAt(next)
    row.current?.querySelectorAll('button')[next]?.focus()
  }
  return (
    <div className="relative flex h-[60px] min-w-[240px] flex-1 items-center">
      <span aria-hidden className="absolute inset-x-0 top-1/2 h-px bg-base-content/60" />
      <div
        ref={row}
        role="group"
        aria-label="Judged queries, from gain to loss"
        className="fills flex h-full min-w-0 flex-1"
        onKeyDown={(event) => {
          const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
          if (by) step(by)
        }}
      >
        {bars.map((bar, i) => {
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
              tabIndex={i === Math.min(at, bars.length - 1) ? 0 : -1}
              onFocus={() => setAt(i)}
              className="fills relative h-full max-w-[22px] min-w-[2px] flex-1 cursor-pointer hover:bg-base-200"
              onClick={() => query && change({ f: null, ...askedAs(query), row: null }, false)}
            >
              <span
                className="absolute left-1/2 w-[55%] max-w-[9px] -translate-x-1/2"
                style={{
                  height,
                  [up ? 'bottom' : 'top']: '50%',
                  background: up ? 'var(--gain)' : 'var(--loss)',
                  outline: first?.queryId === open ? '2px solid var(--color-primary)' : undefined,
                  outlineOffset: 1,
                }}
              />
            </button>
          )
        })}
      </div>
    </div>
  )
}

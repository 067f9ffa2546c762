// The waterline: one stroke per judged query, above the line if the draft gains on the baseline,
// below if it loses, sorted; ties counted apart; binned when there are more strokes than room.
import { useRef, useState } from 'react'
import { Link, useParams } from 'react-router'
import type { UseQueryResult } from '@tanstack/react-query'
import type { Collection, JudgedSet } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { Delta } from '../../parts/delta'
import { carried, useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import type { Draft } from '../../shell/use-draft'
import type { Meter } from '../../shell/use-meter'
import { deltaText, MEASURE_NAMES } from '../../thinking/figures'
import { binned, depthOfMeasure, type Binned, nextLoss, type Waterline } from '../../thinking/movement'
import { askedAs } from '../../thinking/judging'
import { StrokeMoved, type Moving, type QueryOf } from './stroke-moved'

// Past so many queries neighbours share a stroke.
const ROOM = 500
const HALF = 22

export function WaterlineFoot(props: {
  meter: Meter | null
  asked: UseQueryResult<unknown>[]
  queries: JudgedSet['queries']
  isMeasured: boolean
  open: string | null
  isBaseline: boolean
  collection: Collection
  draft: Draft
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
  const broken = new Set(meter?.draft.figures.broken.map((one) => one.expectation.query_id) ?? [])
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
            <Walk line={meter.line} open={props.open} queryOf={queryOf} />
          </>
        )}
        {meter && <BrokenNote broken={broken.size} />}
      </div>
      <Strokes
        bars={bars}
        open={props.open}
        queryOf={queryOf}
        broken={broken}
        moving={{
          collection: props.collection,
          set: meter?.set ?? '',
          draft: props.draft,
          depth: depthOfMeasure(meter?.measure ?? ''),
        }}
      />
    </Kept>
  )
}

// From the worst loss up, one query after the other.
function Walk({ line, open, queryOf }: { line: Waterline; open: string | null; queryOf: QueryOf }) {
  const { change } = useAddress()
  const next = nextLoss(line, open)
  const query = next && queryOf(next.queryId)
  const go = () => query && change({ f: null, ...askedAs(query), row: null }, false)
  useKeys((event) => {
    if (!typing(event) && !event.ctrlKey && !event.metaKey && !event.altKey && event.key === 'w') go()
  })
  if (!query) return null
  const isOnTheWay = line.strokes.some((stroke) => stroke.queryId === open && stroke.delta < 0)
  return (
    <button type="button" className="link small min-h-6" title={`w: ${query.query}`} onClick={go}>
      {isOnTheWay ? 'next loss' : 'worst loss'}
    </button>
  )
}

function BrokenNote({ broken }: { broken: number }) {
  const { params } = useAddress()
  const { collection = '' } = useParams()
  if (broken === 0) return null
  return (
    <div className="small">
      <Link
        className="loss inline-block min-h-6 underline"
        to={`/${collection}/judging${carried(params, { view: 'expectations' })}`}
      >
        × {broken} {broken === 1 ? 'query breaks' : 'queries break'} an expectation
      </Link>
    </div>
  )
}

function Strokes({
  bars,
  open,
  queryOf,
  broken,
  moving,
}: {
  bars: ReturnType<typeof binned>
  open: string | null
  queryOf: QueryOf
  broken: ReadonlySet<string>
  moving: Moving
}) {
  const most = Math.max(0.1, ...bars.map((bar) => Math.abs(bar.delta)))
  // One stroke is come to by Tab, the others from there by the arrows.
  const [at, setAt] = useState(0)
  const row = useRef<HTMLDivElement>(null)
  // The stroke that is pointed at or come to by keys: what moved is told above it.
  const [pointed, setPointed] = useState<number | null>(null)
  const told = pointed === null ? undefined : bars[pointed]
  const step = (by: number) => {
    const next = Math.max(0, Math.min(bars.length - 1, Math.min(at, bars.length - 1) + by))
    setAt(next)
    row.current?.querySelectorAll('button')[next]?.focus()
  }
  return (
    <div
      className="relative flex h-[60px] min-w-[240px] flex-1 items-center"
      onMouseLeave={() => setPointed(null)}
      onBlur={() => setPointed(null)}
      onKeyDown={(event) => event.key === 'Escape' && setPointed(null)}
    >
      {told && <StrokeMoved bar={told} queryOf={queryOf} {...moving} />}
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
        {bars.map((bar, i) => (
          <StrokeButton
            key={bar.from}
            bar={bar}
            query={bar.strokes[0] && queryOf(bar.strokes[0].queryId)}
            height={Math.max(3, (Math.abs(bar.delta) / most) * HALF)}
            isOpen={bar.strokes[0]?.queryId === open}
            isBroken={bar.strokes.some((stroke) => broken.has(stroke.queryId))}
            isNext={i === Math.min(at, bars.length - 1)}
            onPoint={() => setPointed(i)}
            onFocus={() => {
              setAt(i)
              setPointed(i)
            }}
          />
        ))}
      </div>
    </div>
  )
}

function StrokeButton(props: {
  bar: Binned
  query: ReturnType<QueryOf>
  height: number
  isOpen: boolean
  isBroken: boolean
  // Whether Tab comes to this one.
  isNext: boolean
  onPoint: () => void
  onFocus: () => void
}) {
  const { bar, query, isBroken } = props
  const { change } = useAddress()
  const up = bar.delta > 0
  const label =
    bar.strokes.length === 1 && query
      ? `${query.query}: ${deltaText(bar.delta)}`
      : `${bar.strokes.length} queries, ${deltaText(bar.delta)} on average`
  return (
    <button
      type="button"
      aria-label={isBroken ? `${label}; an expectation is broken` : label}
      tabIndex={props.isNext ? 0 : -1}
      onMouseEnter={props.onPoint}
      onFocus={props.onFocus}
      className="fills relative h-full max-w-[22px] min-w-px flex-1 cursor-pointer hover:bg-base-200"
      onClick={() => query && change({ f: null, ...askedAs(query), row: null }, false)}
    >
      <span
        className="absolute left-1/2 w-[55%] max-w-[9px] -translate-x-1/2"
        style={{
          height: props.height,
          [up ? 'bottom' : 'top']: '50%',
          background: up ? 'var(--gain)' : 'var(--loss)',
          outline: props.isOpen ? '2px solid var(--color-primary)' : undefined,
          outlineOffset: 1,
        }}
      />
      {isBroken && (
        <span
          aria-hidden
          className={`loss absolute left-1/2 -translate-x-1/2 text-[12px] leading-none font-bold ${up ? 'bottom-0' : 'top-0'}`}
        >
          ×
        </span>
      )}
    </button>
  )
}

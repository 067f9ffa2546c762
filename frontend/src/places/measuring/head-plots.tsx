// The waterline of two rankers, and every query as a point: the first's value along, the second's up.
import { useCallback } from 'react'
import type { HeadToHead } from '../../api/comparing'
import { Plotted, pressed, type Plotter } from '../../parts/plotted'
import { deltaText, measureText } from '../../thinking/figures'
import { binned, waterline, type Binned, type Waterline } from '../../thinking/movement'

const [WIDE, HALF] = [560, 44]
const SQUARE = 240

type Row = HeadToHead['queries'][number]

export function HeadPlots({ found, onOpen }: { found: HeadToHead; onOpen: (query: string) => void }) {
  const values = (side: 'first' | 'second') => Object.fromEntries(found.queries.map((one) => [one.query_id, one[side]]))
  const line = waterline(values('second'), values('first'))
  const bars = binned(line.strokes, 140)
  const most = Math.max(0.1, ...bars.map((bar) => Math.abs(bar.delta)))
  const textOf = (id: string | undefined) => found.queries.find((one) => one.query_id === id)?.query ?? ''
  const step = WIDE / Math.max(40, bars.length)
  return (
    <>
      <h2 className="heading quiet pb-1">Waterline: {line.strokes.length} queries that moved</h2>
      <WaterlinePlot line={line} bars={bars} most={most} textOf={textOf} step={step} onOpen={onOpen} />
      <h2 className="heading quiet pt-3 pb-1">
        Each query: {found.names[0]} along, {found.names[1]} up
      </h2>
      <Scatter found={found} onOpen={onOpen} />
    </>
  )
}

function WaterlinePlot({
  line,
  bars,
  most,
  textOf,
  step,
  onOpen,
}: {
  line: Waterline
  bars: Binned[]
  most: number
  textOf: (id: string | undefined) => string
  step: number
  onOpen: (query: string) => void
}) {
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${2 * HALF + 4}`}
      className="w-full"
      role="img"
      aria-label={`${line.gained} gained, ${line.lost} lost, ${line.still} still`}
    >
      <line x1="0" x2={WIDE} y1={HALF + 2} y2={HALF + 2} stroke="currentColor" opacity="0.6" />
      {bars.map((bar, i) => {
        const height = Math.max(2, (Math.abs(bar.delta) / most) * HALF)
        const query = textOf(bar.strokes[0]?.queryId)
        return (
          <rect
            key={bar.from}
            x={i * step}
            width={step * 0.62}
            y={bar.delta > 0 ? HALF + 2 - height : HALF + 2}
            height={height}
            fill={bar.delta > 0 ? 'var(--gain)' : 'var(--loss)'}
            className="cursor-pointer"
            onClick={() => onOpen(query)}
          >
            <title>
              {bar.strokes.length === 1
                ? `${query}: ${deltaText(bar.delta)}`
                : `${bar.strokes.length} queries, ${deltaText(bar.delta)} on average`}
            </title>
          </rect>
        )
      })}
    </svg>
  )
}

// What is shown as neither above nor below the line.
const STILL = 0.0005

function Scatter({ found, onOpen }: { found: HeadToHead; onOpen: (query: string) => void }) {
  const make = useCallback(
    ({ dot, line, frame }: Plotter) => {
      const ways = [
        { of: (delta: number) => delta > STILL, symbol: 'triangle', fill: 'var(--gain)', stroke: 'none' },
        { of: (delta: number) => delta < -STILL, symbol: 'triangle', rotate: 180, fill: 'var(--loss)', stroke: 'none' },
        { of: (delta: number) => Math.abs(delta) <= STILL, symbol: 'circle', fill: 'none', stroke: 'var(--quiet)' },
      ]
      const axis = (label: string) => ({ domain: [0, 1], ticks: [0, 0.5, 1], label, labelArrow: 'none' as const })
      return {
        ...{ marginLeft: 40, marginRight: 8, marginTop: 20, marginBottom: 36 },
        x: axis(`${found.names[0]}, ${found.measure}`),
        y: axis(found.names[1]),
        marks: [
          frame({ stroke: 'var(--line)' }),
          line(
            [
              [0, 0],
              [1, 1],
            ],
            { stroke: 'currentColor', strokeOpacity: 0.5, strokeDasharray: '3 3' },
          ),
          // Above and below the line also by shape.
          ...ways.map(({ of, symbol, rotate = 0, fill, stroke }) => {
            const own = found.queries.filter((one) => of(one.second - one.first))
            return dot(own, {
              ...{ x: 'first', y: 'second', symbol: symbol as 'circle', rotate, r: 4, fill, stroke, fillOpacity: 0.75 },
              title: (one: Row) => `${one.query}: ${measureText(one.first)} and ${measureText(one.second)}`,
              render: pressed(own, { onPress: (one) => onOpen(one.query) }),
            })
          }),
        ],
      }
    },
    [found, onOpen],
  )
  return <Plotted make={make} what="Scatter of the queries" width={SQUARE + 48} height={SQUARE + 56} />
}

// The waterline of two rankers, and every query as a point: the first's value along, the second's up.
import type { HeadToHead } from '../../api/comparing'
import { along } from '../../thinking/comparing'
import { deltaText, measureText } from '../../thinking/figures'
import { binned, waterline, type Binned, type Waterline } from '../../thinking/movement'

const [WIDE, HALF] = [560, 44]
const SQUARE = 240

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

function Scatter({ found, onOpen }: { found: HeadToHead; onOpen: (query: string) => void }) {
  return (
    <svg width={SQUARE + 34} height={SQUARE + 26} role="img" aria-label="Scatter of the queries">
      <rect x="28" y="4" width={SQUARE} height={SQUARE} fill="none" stroke="var(--line)" />
      <line x1="28" y1={SQUARE + 4} x2={SQUARE + 28} y2="4" stroke="currentColor" opacity="0.5" strokeDasharray="3 3" />
      {[0, 0.5, 1].map((tick) => (
        <g key={tick} fontSize="11" fill="var(--quiet)">
          <text x={28 + tick * SQUARE} y={SQUARE + 20} textAnchor="middle">
            {tick}
          </text>
          <text x="22" y={SQUARE + 8 - tick * SQUARE} textAnchor="end">
            {tick}
          </text>
        </g>
      ))}
      {found.queries.map((one) => {
        const delta = one.second - one.first
        const [x, y] = [28 + along(one.first, SQUARE), SQUARE + 4 - along(one.second, SQUARE)]
        const colour = Math.abs(delta) < 0.0005 ? 'var(--quiet)' : delta > 0 ? 'var(--gain)' : 'var(--loss)'
        const title = `${one.query}: ${measureText(one.first)} and ${measureText(one.second)}`
        return (
          <g key={one.query_id} className="cursor-pointer" onClick={() => onOpen(one.query)}>
            <title>{title}</title>
            {/* Above and below the line also by shape. */}
            {delta > 0.0005 ? (
              <path d={`M${x} ${y - 4}l4 7h-8z`} fill={colour} opacity="0.75" />
            ) : delta < -0.0005 ? (
              <path d={`M${x} ${y + 4}l4 -7h-8z`} fill={colour} opacity="0.75" />
            ) : (
              <circle cx={x} cy={y} r="3" fill="none" stroke={colour} />
            )}
          </g>
        )
      })}
    </svg>
  )
}

// A knob's curve, above its track: the judged quality over its range, what unjudged records leave open as a pale band,
// the draft as a dot on it and the baseline as a ring.
import type { RankerDocument } from '../../api/queries'
import { curveOf, curveSays, meanAt, valuesAlong, type Curve } from '../../thinking/curve'
import { measureText, MEASURE_NAMES } from '../../thinking/figures'
import { useCurves, useTurns } from './curves'

const HEIGHT = 22
const WIDTH = 200

type Props = {
  name: string
  value: number
  from: number
  to: number
  step: number
  put: (value: number) => RankerDocument
}

export type CurveShown = { curve: Curve; isOld: boolean; label: string }

// The curve of a knob, asked for when it is its turn; null where there is none, and why the server refuses one.
export function useKnobCurve({ name, value, from, to, step, put }: Props): {
  shown: CurveShown | null
  isAwaited: boolean
  refused: Error | null
} {
  const { measure, mean } = useCurves()
  const values = valuesAlong(from, to, step)
  const { turned, isOld, isAwaited, refused } = useTurns(name, values, put)
  const curve = turned ? curveOf(values, turned, mean === null || isOld ? null : { value, mean }) : null
  const label = `${MEASURE_NAMES[measure] ?? measure} over ${name}`
  return { shown: curve ? { curve, isOld, label } : null, isAwaited, refused }
}

// What there is to gain by the knob, and at a click the knob turned there.
export function CurveSays({ shown, name, value, onValue }: Said) {
  const says = curveSays(shown.curve, value)
  if (says.better === null) return <span className="quiet text-[11px]">{says.words}</span>
  return (
    <button
      type="button"
      className="link quiet py-[4px] text-[11px]"
      title={`${name}: ${measureText(shown.curve.top.mean)} there, everything else as it is`}
      onClick={() => says.better !== null && onValue(says.better)}
    >
      {says.words}
    </button>
  )
}

// The room of a curve that is still to come.
export function RoomForCurve() {
  return <div aria-hidden style={{ height: HEIGHT }} />
}

type Said = { shown: CurveShown; name: string; value: number; onValue: (value: number) => void }

// The thumb is ten pixels wide: the track begins and ends half of that from the edges.
export function DrawnCurve(props: { shown: CurveShown; value: number; was: number | undefined }) {
  const { value, was } = props
  const { curve, isOld, label } = props.shown
  const y = (mean: number) =>
    HEIGHT - 2 - Math.max(0, Math.min(1, (mean - curve.low) / (curve.high - curve.low))) * (HEIGHT - 4)
  const line = curve.points.map((point) => `${point.at * WIDTH},${y(point.mean)}`).join(' ')
  const ends = curve.points.filter((point) => point.worst !== null && point.best !== null)
  const band = [
    ...ends.map((point) => `${point.at * WIDTH},${y(point.best ?? 0)}`),
    ...ends.toReversed().map((point) => `${point.at * WIDTH},${y(point.worst ?? 0)}`),
  ].join(' ')
  const [from, to] = [curve.points[0]?.value ?? 0, curve.points.at(-1)?.value ?? 1]
  const spot = (of: number) => {
    const mean = meanAt(curve, of)
    return mean === null ? null : { left: `${((of - from) / (to - from)) * 100}%`, top: y(mean) }
  }
  const [here, before] = [spot(value), was === undefined || was === value ? null : spot(was)]
  const low = Math.min(...curve.points.map((point) => point.mean))
  return (
    <div
      role="img"
      aria-label={`${label}: from ${measureText(low)} to ${measureText(curve.top.mean)}, the best at ${curve.top.value}`}
      data-curve={isOld ? 'old' : 'there'}
      className="relative mx-[5px]"
      style={{ height: HEIGHT, opacity: isOld ? 0.45 : 1 }}
    >
      <svg
        aria-hidden
        className="fills h-full w-full overflow-visible"
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        preserveAspectRatio="none"
      >
        {band && <polygon points={band} fill="var(--color-base-content)" opacity={0.09} />}
        <polyline
          points={line}
          fill="none"
          stroke="var(--color-base-content)"
          strokeWidth={1.5}
          vectorEffect="non-scaling-stroke"
          strokeDasharray={curve.isFlat ? '3 3' : undefined}
        />
      </svg>
      {before && (
        <span
          aria-hidden
          className="absolute h-[8px] w-[8px] -translate-x-1/2 -translate-y-1/2 rounded-full border-[1.5px] border-base-content bg-base-100"
          style={before}
        />
      )}
      {here && (
        <span
          aria-hidden
          className={`absolute h-[8px] w-[8px] -translate-x-1/2 -translate-y-1/2 rounded-full ${before ? 'bg-primary' : 'bg-base-content'}`}
          style={here}
        />
      )}
    </div>
  )
}

// What each knob does around the setting that is offered, the one that matters most first: its curve, where it stood and
// where it stands, and how flat the top is.
import type { KnobReport, TuningReport } from '../../api/tuning'
import { TakeAway } from '../../parts/take-away'
import { measureText } from '../../thinking/figures'
import { knobPoints, knobSays, valueText } from '../../thinking/tuning'

const [WIDE, HIGH] = [180, 34]

const spanOf = (knob: KnobReport) => {
  const means = knobPoints(knob).map((point) => point.mean)
  return means.length === 0 ? 0 : Math.max(...means) - Math.min(...means)
}

export function KnobsAround({ report }: { report: TuningReport }) {
  const knobs = report.knobs.toSorted((one, other) => spanOf(other) - spanOf(one))
  const all = knobs.flatMap((knob) => knobPoints(knob).map((point) => point.mean))
  if (all.length === 0) return null
  const [low, high] = [Math.min(...all), Math.max(...all)]
  const rows = () => [
    ['knob', 'value', report.measure],
    ...knobs.flatMap((knob) => knob.values.map((value, i) => [knob.name, valueText(value), knob.means[i] ?? ''])),
  ]
  return (
    <>
      <div className="flex items-baseline gap-3 pt-4">
        <h3 className="heading quiet">Each knob, the others as offered</h3>
        <TakeAway what="the knobs" file={`${report.judged_set}-knobs`} rows={rows} />
      </div>
      <p className="quiet small pb-1">
        From {measureText(low)} to {measureText(high)}, all on one scale. Bold: as good within luck; ring: as it stood;
        dot: as offered.
      </p>
      <ul>
        {knobs.map((knob) => (
          <li key={knob.path.join('.')} className="line-b flex flex-wrap items-center gap-x-4 py-1">
            <KnobPlot knob={knob} low={low} high={high} />
            <span className="min-w-40 flex-1 wrap-anywhere">
              <b className="font-semibold">{knob.name}</b> <span className="quiet small block">{knobSays(knob)}</span>
            </span>
          </li>
        ))}
      </ul>
    </>
  )
}

function KnobPlot({ knob, low, high }: { knob: KnobReport; low: number; high: number }) {
  const last = Math.max(1, knob.values.length - 1)
  const x = (at: number) => 6 + (at / last) * (WIDE - 12)
  const y = (mean: number) => HIGH - 5 - ((mean - low) / Math.max(high - low, 0.04)) * (HIGH - 10)
  const points = knobPoints(knob).map(({ at, mean }) => [x(at * last), y(mean)] as const)
  const good = knob.as_good.map((at) => [x(at), y(knob.means[at] ?? low)] as const)
  const spot = (at: number) => (knob.means[at] == null ? null : { cx: x(at), cy: y(knob.means[at]) })
  const [stood, stands] = [spot(knob.standing), spot(knob.chosen)]
  return (
    <svg
      width={WIDE}
      height={HIGH}
      className="shrink-0"
      role="img"
      aria-label={`${knob.name} from ${valueText(knob.values[0])} to ${valueText(knob.values.at(-1))}`}
    >
      {knob.ordered ? (
        <>
          <Line points={points} width={1} />
          <Line points={good} width={3} />
        </>
      ) : (
        points.map(([px, py]) => (
          <line key={px} x1={px} x2={px} y1={HIGH - 3} y2={py} stroke="currentColor" strokeWidth="3" opacity="0.5" />
        ))
      )}
      {stood && <circle {...stood} r="4" fill="var(--color-base-100)" stroke="currentColor" strokeWidth="1.5" />}
      {stands && (
        <circle {...stands} r="4" fill={knob.chosen === knob.standing ? 'currentColor' : 'var(--color-primary)'} />
      )}
    </svg>
  )
}

const Line = ({ points, width }: { points: (readonly [number, number])[]; width: number }) => (
  <polyline
    points={points.map(([px, py]) => `${px},${py}`).join(' ')}
    fill="none"
    stroke="currentColor"
    strokeWidth={width}
    strokeOpacity={width > 1 ? 0.9 : 0.45}
  />
)

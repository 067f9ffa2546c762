// By what it is tuned: the meter's measure, or several with weights.
import { Select } from '../../parts/select'
import { METER_MEASURES } from '../../shell/use-meter'
import { MEASURE_NAMES } from '../../thinking/figures'

export type WeighedMeasure = { measure: string; weight: number }

const CHOICES = METER_MEASURES.map((one) => [one, MEASURE_NAMES[one] ?? one] as const)

export function Measures(props: {
  own: WeighedMeasure[] | null
  meter: string
  set: string
  onMeasures: (measures: WeighedMeasure[] | null) => void
}) {
  const { own, meter, set, onMeasures } = props
  const all = own ?? [{ measure: meter, weight: 1 }]
  const next = METER_MEASURES.find((one) => all.every((other) => other.measure !== one))
  const add = next !== undefined && (
    <button
      type="button"
      className="link small"
      onClick={() => onMeasures([...all, { measure: next, weight: own === null ? 0.5 : 1 }])}
    >
      {own === null ? 'and by another measure' : 'one more measure'}
    </button>
  )
  if (own === null) {
    return (
      <p className="quiet small pb-2">
        by {MEASURE_NAMES[meter] ?? meter} on the open queries of {set} {add}
      </p>
    )
  }
  const change = (at: number, changes: Partial<WeighedMeasure>) =>
    onMeasures(own.map((one, i) => (i === at ? { ...one, ...changes } : one)))
  return (
    <fieldset className="small pb-2">
      <legend className="quiet">by the weighted mean of these, on the open queries of {set}</legend>
      {own.map((one, i) => (
        <p key={one.measure} className="flex items-center gap-2 py-[2px]">
          <Select
            label={`Measure ${i + 1}`}
            className="select select-xs w-[150px] border-base-300 bg-transparent"
            value={one.measure}
            choices={CHOICES.filter(([name]) => name === one.measure || own.every((other) => other.measure !== name))}
            onChoose={(measure) => change(i, { measure })}
          />
          <label className="flex items-center gap-1">
            <span className="quiet">weight</span>
            <input
              type="number"
              aria-label={`Weight of measure ${i + 1}`}
              min={0.01}
              max={1000}
              step="any"
              required
              className="input input-xs w-20 border-base-300 bg-transparent"
              value={Number.isNaN(one.weight) ? '' : one.weight}
              onChange={(event) => change(i, { weight: event.target.valueAsNumber })}
            />
          </label>
          <button
            type="button"
            className="btn btn-ghost btn-xs font-normal"
            aria-label={`Leave measure ${i + 1} out`}
            onClick={() => onMeasures(own.length === 1 ? null : own.filter((_, at) => at !== i))}
          >
            ✕
          </button>
        </p>
      ))}
      {add}
    </fieldset>
  )
}

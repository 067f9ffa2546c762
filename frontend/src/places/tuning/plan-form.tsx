// What is tuned and how: knobs with their values, what they are tuned by, guard rails, the way to search.
import { useQuery } from '@tanstack/react-query'
import type { Collection } from '../../api/queries'
import { beginTuning, knobsToTune, type KnobOffer, type TuningRequest, type Way } from '../../api/tuning'
import { Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { Select } from '../../parts/select'
import { useHeld } from '../../parts/use-held'
import { useAddress } from '../../shell/address'
import type { Draft } from '../../shell/use-draft'
import { useDoing } from '../../shell/use-doing'
import { useMainMeasure } from '../../shell/use-meter'
import { parsedHow } from '../../thinking/how'
import { knobLines, linesOf, type KnobRow } from '../../thinking/tuning'
import { Measures, type WeighedMeasure } from './measures-form'
import { Changing } from '../../shell/changing'

const WAYS: readonly (readonly [Way & string, string])[] = [
  ['coordinate', 'one knob after the other'],
  ['surrogate', 'by a surrogate'],
  ['random', 'at random'],
  ['grid', 'every setting'],
]
const field = 'input input-xs border-base-300 bg-transparent'

type Turned = Record<string, { isOn: boolean; values: string }>

// What is asked for, held while the place is left.
function usePlan(collection: Collection, set: string, draft: Draft) {
  const held = `tuning ${collection.name}/${set}/`
  const offered = useQuery(knobsToTune(collection, draft.choice))
  const [turned, setTurned] = useHeld<Turned>(`${held}turned`, {})
  const [added, setAdded] = useHeld(`${held}added`, '')
  // None: by the meter's.
  const [measures, setMeasures] = useHeld<WeighedMeasure[] | null>(`${held}measures`, null)
  const [rails, setRails] = useHeld(`${held}rails`, '')
  const [way, setWay] = useHeld<Way & string>(`${held}way`, 'coordinate')
  const [folds, setFolds] = useHeld(`${held}folds`, 5)
  const [seconds, setSeconds] = useHeld(`${held}seconds`, 120)
  const rows = (offered.data ?? []).map((one) => rowOf(one, turned))
  // By the rules in force, as the meter.
  const how = parsedHow(useAddress().params.get('rules'))
  return {
    ...{ offered, rows, turned, setTurned, added, setAdded, rails, setRails, way, setWay, folds, setFolds },
    ...{ seconds, setSeconds, how, measures, setMeasures },
  }
}

const requestOf = (
  draft: Draft,
  measure: string,
  knobs: string[],
  plan: ReturnType<typeof usePlan>,
): TuningRequest => ({
  ranker: draft.baseline.name,
  version: draft.baseline.version,
  document: draft.isBaseline ? null : draft.document,
  measures: plan.measures ?? [{ measure, weight: 1 }],
  knobs,
  way: plan.way,
  folds: plan.folds,
  rails: linesOf(plan.rails),
  most: 1000,
  seconds: plan.seconds,
  seed: 0,
  ...plan.how,
})

export function PlanForm(props: { collection: Collection; set: string; draft: Draft; onBegun: (id: number) => void }) {
  const { collection, set, draft } = props
  const measure = useMainMeasure()
  const { busy, problem, act } = useDoing('tuning', collection.name)
  const plan = usePlan(collection, set, draft)
  const { offered, rows, turned, setTurned, added, setAdded, rails, setRails, way, folds, seconds } = plan
  const lines = knobLines(rows, added)
  const begin = () =>
    act(() => beginTuning(collection.name, set, requestOf(draft, measure, lines, plan)), {
      then: (begun) => props.onBegun(begun.id),
    })
  return (
    <form
      aria-label="What is tuned"
      className="line-b px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault()
        void begin()
      }}
    >
      <h2 className="text-lg font-semibold">
        {draft.isBaseline
          ? `${draft.baseline.name} ${draft.baseline.version}`
          : `The draft of ${draft.baseline.name} ${draft.baseline.version}`}
      </h2>
      <Measures own={plan.measures} meter={measure} set={set} onMeasures={plan.setMeasures} />
      {offered.isError && linesOf(added).length === 0 && <ProblemNote error={offered.error} />}
      {offered.isPending && <Unanswered asked={[offered]} what="the knobs" />}
      <KnobTable
        rows={rows}
        onTurn={(row) => setTurned({ ...turned, [row.place]: { isOn: row.isOn, values: row.values } })}
        onAll={(isOn) =>
          setTurned(
            Object.fromEntries(
              rows.map((row) => [row.place, { isOn: row.isUsual ? isOn : row.isOn, values: row.values }]),
            ),
          )
        }
      />
      <Lines
        name="Other knobs, one a line"
        hint="readings[0].chain=@english | words > lower"
        value={added}
        onValue={setAdded}
      />
      <Lines
        name="Guard rails, one a line"
        hint="each query ndcg@10 may not drop more than 0.3"
        value={rails}
        onValue={setRails}
      />
      <div className="flex flex-wrap items-end gap-3 pb-3">
        <label>
          <span className="quiet small block">Search</span>
          <Select
            label="Search"
            className="select select-xs border-base-300 bg-transparent"
            value={way}
            choices={WAYS}
            onChoose={plan.setWay}
          />
        </label>
        <Counted name="Folds" least={2} most={20} value={folds} onValue={plan.setFolds} />
        <Counted name="Seconds" least={1} most={86_400} value={seconds} onValue={plan.setSeconds} />
      </div>
      <Changing>
        <button type="submit" className="btn btn-sm btn-primary" disabled={busy || lines.length === 0}>
          Tune {lines.length} {lines.length === 1 ? 'knob' : 'knobs'}
        </button>
      </Changing>
      {problem && <ProblemNote error={problem} />}
    </form>
  )
}

const rowOf = (one: KnobOffer, turned: Turned): KnobRow => ({
  ...one,
  isUsual: one.is_usual,
  ...(turned[one.place] ?? { isOn: one.is_usual, values: one.values }),
})

function KnobTable(props: { rows: KnobRow[]; onTurn: (row: KnobRow) => void; onAll: (isOn: boolean) => void }) {
  const { rows } = props
  if (rows.length === 0) return null
  const isAll = rows.every((row) => row.isOn || !row.isUsual)
  return (
    <table className="mb-2 w-full text-left">
      <thead>
        <tr className="quiet small h-7">
          <th scope="col" className="w-7 font-normal">
            <input
              type="checkbox"
              className="checkbox checkbox-xs align-middle"
              aria-label="All usual knobs"
              checked={isAll}
              onChange={() => props.onAll(!isAll)}
            />
          </th>
          <th scope="col" className="font-normal">
            knob
          </th>
          <th scope="col" className="pr-3 text-right font-normal">
            now
          </th>
          <th scope="col" className="font-normal">
            values tried
          </th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row, i) => [
          !row.isUsual && rows[i - 1]?.isUsual && (
            <tr key="others" className="quiet small h-7">
              <th scope="colgroup" colSpan={4} className="pt-1 font-normal">
                only where chosen; a chain is indexed when it is first tried
              </th>
            </tr>
          ),
          <tr key={row.place} className="h-7">
            <td>
              <input
                type="checkbox"
                className="checkbox checkbox-xs align-middle"
                aria-label={`Tune ${row.name}`}
                checked={row.isOn}
                onChange={() => props.onTurn({ ...row, isOn: !row.isOn })}
              />
            </td>
            <td className="py-[2px] pr-2 wrap-anywhere" title={row.place}>
              {row.name}
            </td>
            <td className="figure max-w-[80px] truncate pr-3 text-right" title={row.standing}>
              {row.standing}
            </td>
            <td>
              <input
                dir="auto"
                aria-label={`Values of ${row.name}`}
                title={`${row.values}: values with commas, or a range as 0..4 or 0..4/0.5`}
                className={`${field} w-full px-2 font-mono text-[11px]`}
                disabled={!row.isOn}
                value={row.values}
                onChange={(event) => props.onTurn({ ...row, values: event.target.value })}
              />
            </td>
          </tr>,
        ])}
      </tbody>
    </table>
  )
}

function Lines(props: { name: string; hint: string; value: string; onValue: (value: string) => void }) {
  return (
    <label className="block pb-2">
      <span className="quiet small block">{props.name}</span>
      <textarea
        dir="auto"
        rows={props.value === '' ? 1 : 3}
        className="textarea textarea-xs min-h-0 w-full border-base-300 bg-transparent font-mono"
        placeholder={props.hint}
        value={props.value}
        onChange={(event) => props.onValue(event.target.value)}
      />
    </label>
  )
}

function Counted(props: {
  name: string
  least: number
  most: number
  value: number
  onValue: (value: number) => void
}) {
  return (
    <label>
      <span className="quiet small block">{props.name}</span>
      <input
        type="number"
        min={props.least}
        max={props.most}
        required
        className={`${field} w-20`}
        value={Number.isNaN(props.value) ? '' : props.value}
        onChange={(event) => props.onValue(event.target.valueAsNumber)}
      />
    </label>
  )
}

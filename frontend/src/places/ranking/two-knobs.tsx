// Two knobs turned together, as a small surface: the darker the better. A click takes both values.
import { useQuery } from '@tanstack/react-query'
import { useState, type KeyboardEvent } from 'react'
import { turnsOf } from '../../api/curves'
import type { RankerDocument } from '../../api/queries'
import { Dialog } from '../../parts/dialog'
import { ProblemNote } from '../../parts/notes'
import { Select } from '../../parts/select'
import { TakeAway } from '../../parts/take-away'
import type { Undo } from '../../shell/use-undo'
import { grafted, placeOfChange, valueAt, type Path } from '../../thinking/curve'
import { measureText, MEASURE_NAMES } from '../../thinking/figures'
import { surfaceOf, surfaceSays, valuesOfSurface } from '../../thinking/surface'
import { shadeOf, valueText, type Cell } from '../../thinking/tuning'
import { useCurves, useKnobsInSight, type KnobInSight } from './curves'

export function TwoKnobs({ undo, onClose }: { undo: Undo; onClose: () => void }) {
  const { queue } = useCurves()
  const { names, named } = useKnobsInSight()
  const [chosen, setPair] = useState<Pair | null>(null)
  const pair = chosen ?? firstPair(names, queue.inHand)
  const [down, across] = [named(pair[0]), named(pair[1])]
  return (
    <Dialog label="Two knobs together" className="w-[820px] p-5" onClose={onClose}>
      <div className="flex items-baseline justify-between">
        <h2 className="font-semibold">Two knobs together</h2>
        <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={onClose}>
          Close
        </button>
      </div>
      <div className="flex flex-wrap gap-x-6 gap-y-1 py-2">
        {(['Down', 'Across'] as const).map((label, i) => (
          <label key={label} className="flex min-w-0 items-center gap-2">
            <span className="quiet">{label}</span>
            <Select
              label={label}
              className="max-w-[300px] min-w-0 border-b border-base-300 bg-transparent"
              value={pair[i] ?? ''}
              choices={names.map((name) => [name, name] as const)}
              onChoose={(name) => setPair(withChosen(pair, i, name))}
            />
          </label>
        ))}
      </div>
      {down && across ? (
        <SurfaceOfTwo key={pair.join('\n')} down={down} across={across} undo={undo} />
      ) : (
        <p className="quiet">There is only one number in sight. Open more parts of the ranker.</p>
      )}
    </Dialog>
  )
}

type Pair = [string | undefined, string | undefined]

function firstPair(names: readonly string[], inHand: string | null): Pair {
  const first = names.find((name) => name === inHand) ?? names[0]
  return [first, names.find((name) => name !== first)]
}

// Whoever chooses the other one wants them the other way round.
function withChosen([down, across]: Pair, i: number, name: string): Pair {
  if (name === (i === 0 ? across : down)) return [across, down]
  return i === 0 ? [name, across] : [down, name]
}

type Two = { down: KnobInSight; across: KnobInSight }

// Both knobs' values, the draft with them, and where they stand in the document.
function useSurface({ down, across }: Two) {
  const { collection, draft, set, measure, how } = useCurves()
  // The values stay while one of them is taken.
  const [rows, columns] = useState(() => [valuesOfSurface(down), valuesOfSurface(across)] as const)[0]
  const paths = [pathOf(down, rows), pathOf(across, columns)] as const
  const [downPath, acrossPath] = paths
  const both = (row: number, column: number): RankerDocument =>
    grafted(down.put(row), across.put(column), acrossPath ?? [])
  const still = both(rows[0] ?? 0, columns[0] ?? 0)
  const turns = rows.flatMap((row) =>
    columns.map((column) => ({
      path: downPath ?? [],
      value: row,
      beside: { path: acrossPath ?? [], value: column },
    })),
  )
  const answer = useQuery({
    ...turnsOf(
      collection,
      set ?? '',
      { ...draft.baselineChoice, document: still },
      measure,
      { ...how, bands: false },
      turns,
    ),
    enabled: set !== null && downPath !== null && acrossPath !== null,
    retry: false,
  })
  const standing = [downPath, acrossPath].map((path) => (path ? valueAt(draft.document, path) : null))
  const here = [rows.indexOf(Number(standing[0])), columns.indexOf(Number(standing[1]))] as const
  return { rows, columns, both, answer, measure, set, here, isTurned: downPath !== null && acrossPath !== null }
}

function pathOf(knob: KnobInSight, values: readonly number[]): Path | null {
  const [first, last] = [values[0], values.at(-1)]
  return first === undefined || last === undefined ? null : placeOfChange(knob.put(first), knob.put(last))
}

function SurfaceOfTwo({ down, across, undo }: Two & { undo: Undo }) {
  const { rows, columns, both, answer, measure, set, here, isTurned } = useSurface({ down, across })
  if (set === null) return <p className="quiet">Without judged queries there is nothing to measure by.</p>
  if (!isTurned) return <p className="quiet">These two cannot be turned together.</p>
  if (answer.isError) return <ProblemNote error={answer.error} />
  if (!answer.data || answer.isPlaceholderData) {
    return (
      <p className="quiet" role="status">
        Measuring {rows.length * columns.length} settings …
      </p>
    )
  }
  const cells = surfaceOf(answer.data.turned, columns.length)
  const says = surfaceSays(
    cells,
    cells.find((cell) => cell.row === here[0] && cell.column === here[1]),
  )
  const take = (cell: Cell) => undo.commit(both(rows[cell.row] ?? 0, columns[cell.column] ?? 0))
  const table = () => [
    [down.name, across.name, measure],
    ...cells.map((cell) => [rows[cell.row] ?? '', columns[cell.column] ?? '', cell.mean]),
  ]
  const best = says.best
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-3">
        <p role="status">
          {MEASURE_NAMES[measure] ?? measure} of the open queries, everything else held still. {says.words}
        </p>
        {best && (
          <button type="button" className="link" onClick={() => take(best)}>
            take {valueText(rows[best.row])} and {valueText(columns[best.column])}
          </button>
        )}
        <TakeAway what="the surface" file="two-knobs" rows={table} />
      </div>
      <Grid {...{ down, across, rows, columns, cells, here, take }} best={best} />
      <p className="quiet small pt-2">
        Outlined: the draft. ▲ the best of these, found on the queries that it is measured on.
      </p>
    </>
  )
}

// Arrows go from cell to cell.
function toNeighbour(event: KeyboardEvent<HTMLElement>) {
  const [row, column] = (document.activeElement?.getAttribute('data-cell') ?? '').split(' ').map(Number)
  const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key]
  if (row === undefined || column === undefined || !step) return
  event.preventDefault()
  const to = `${row + (step[0] ?? 0)} ${column + (step[1] ?? 0)}`
  event.currentTarget.querySelector<HTMLElement>(`[data-cell="${to}"]`)?.focus()
}

function Grid(
  props: Two & {
    rows: readonly number[]
    columns: readonly number[]
    cells: readonly Cell[]
    here: readonly [number, number]
    best: Cell | null
    take: (cell: Cell) => void
  },
) {
  const { down, across, rows, columns, cells, here, best } = props
  const shade = shadeOf(cells)
  const [at, setAt] = useState<readonly [number, number]>([Math.max(0, here[0]), Math.max(0, here[1])])
  return (
    <div className="overflow-x-auto pt-3" role="region" aria-label="Surface">
      <table className="border-separate border-spacing-[2px] text-center" onKeyDown={toNeighbour}>
        <caption className="quiet small pb-1 text-left">
          {down.name} ↓ {across.name} →
        </caption>
        <thead>
          <tr className="quiet small">
            <td />
            {columns.map((value) => (
              <th key={value} scope="col" className="figure min-w-12 font-normal">
                {valueText(value)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, i) => (
            <tr key={row}>
              <th scope="row" className="figure quiet small pr-2 text-right font-normal">
                {valueText(row)}
              </th>
              {columns.map((column, j) => {
                const cell = cells.find((one) => one.row === i && one.column === j)
                if (!cell) return <td key={column}>–</td>
                const isHere = here[0] === i && here[1] === j
                const isBest = best?.row === i && best.column === j
                return (
                  <td key={column} className="p-0">
                    <button
                      type="button"
                      data-cell={`${i} ${j}`}
                      tabIndex={at[0] === i && at[1] === j ? 0 : -1}
                      aria-pressed={isHere}
                      aria-label={`${down.name} ${valueText(row)}, ${across.name} ${valueText(column)}: ${measureText(cell.mean)}${isBest ? ', the best' : ''}`}
                      className={`figure h-7 w-full cursor-pointer px-1 text-[12px] ${isHere ? 'outline-2 outline-base-content' : ''}`}
                      style={{
                        background: `color-mix(in oklab, var(--gain) ${Math.round(shade(cell.mean) * 45)}%, transparent)`,
                      }}
                      onFocus={() => setAt([i, j])}
                      onClick={() => props.take(cell)}
                    >
                      {measureText(cell.mean)}
                      {isBest && <span aria-hidden> ▲</span>}
                    </button>
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

// Two knobs turned together: their values, the means by both, and what the best of them would gain.
import type { Turned } from '../api/curves'
import { cellsOf, type Cell } from './tuning'
import { valuesAlong } from './curve'

// So many values of each, and where it stands: a hundred turns at most.
const ALONG = 9

export const valuesOfSurface = (knob: { from: number; to: number; step: number; value: number }): number[] =>
  [...new Set([...valuesAlong(knob.from, knob.to, knob.step, ALONG), knob.value])].toSorted((a, b) => a - b)

// By row and column, from turns row by row.
export const surfaceOf = (turned: readonly Turned[], columns: number): Cell[] => {
  const means = turned.map((one) => one.mean ?? null)
  return cellsOf({
    means: Array.from({ length: means.length / columns }, (_, i) => means.slice(i * columns, (i + 1) * columns)),
  })
}

// What shows as 0.000.
const NO_DIFFERENCE = 0.0005

export function surfaceSays(cells: readonly Cell[], here: Cell | undefined): { words: string; best: Cell | null } {
  const best = cells.reduce<Cell | null>((one, other) => (one === null || other.mean > one.mean ? other : one), null)
  const least = Math.min(...cells.map((cell) => cell.mean))
  if (best === null) return { words: 'No query counts here.', best: null }
  if (best.mean - least < NO_DIFFERENCE) return { words: 'Whatever their values, it makes no difference.', best: null }
  if (here === undefined) return { words: `The best comes to ${best.mean.toFixed(3)}.`, best }
  const gain = best.mean - here.mean
  if (gain < NO_DIFFERENCE) return { words: 'The draft stands at the best of these.', best: null }
  return { words: `The best comes to ${best.mean.toFixed(3)}, +${gain.toFixed(3)}.`, best }
}

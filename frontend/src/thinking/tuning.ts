// What a tuning is asked for and what is said of it.
import type { KnobReport, Surface, Tuning } from '../api/tuning'
import { deltaText, measureText } from './figures'

// A knob of the form: whether it is tuned, and its values as they are written.
export type KnobRow = { place: string; name: string; standing: string; values: string; isOn: boolean; isUsual: boolean }

// Knobs as they are asked for; what somebody added by hand comes last.
export const knobLines = (rows: readonly KnobRow[], added: string): string[] => [
  ...rows.filter((one) => one.isOn && one.values.trim() !== '').map((one) => `${one.place}=${one.values}`),
  ...linesOf(added),
]

export const linesOf = (text: string): string[] =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '')

export const isRunning = (tuning: Tuning) => tuning.state === 'waiting' || tuning.state === 'running'

// How a tuning stands, in a line.
export function standingOf(tuning: Tuning): string {
  if (tuning.state === 'waiting') return 'waiting for another one to end'
  if (tuning.state === 'running') {
    const [, mean] = tuning.found.at(-1) ?? []
    const best = mean === undefined ? '' : `, best so far ${measureText(mean)}`
    return `${tuning.phase || 'beginning'}: ${tuning.tried.toLocaleString('en-US')} settings tried${best}`
  }
  if (tuning.said !== '') return tuning.said
  return tuning.problem ?? (tuning.state === 'cancelled' ? 'It was ended.' : 'done')
}

// What a knob does around the setting that is offered.
export function knobSays(knob: KnobReport): string {
  const known = knob.means.filter((mean): mean is number => mean !== null)
  if (known.length < 2) return 'not tried'
  if (Math.max(...known) - Math.min(...known) < 0.0005) return 'makes no difference'
  const good = knob.as_good.map((at) => valueText(knob.values[at]))
  const range = knob.ordered && good.length > 2 ? `${good[0] ?? ''} to ${good.at(-1) ?? ''}` : good.join(', ')
  const turned =
    knob.chosen === knob.standing
      ? 'left as it is'
      : `${valueText(knob.values[knob.standing])} to ${valueText(knob.values[knob.chosen])}`
  const loses =
    knob.chosen !== knob.standing && knob.loses !== null ? `; turned back alone it costs ${deltaText(-knob.loses)}` : ''
  return `${turned}${loses}${range === '' ? '' : `; as good within luck: ${range}`}`
}

export const valueText = (value: unknown): string =>
  typeof value === 'number'
    ? String(Math.round(value * 1000) / 1000)
    : typeof value === 'string'
      ? value
      : JSON.stringify(value)

// The drawing of a knob's means: points in 0 to 1, left out where nothing was tried.
export function knobPoints(knob: KnobReport): { at: number; mean: number }[] {
  const last = Math.max(1, knob.values.length - 1)
  return knob.means.flatMap((mean, i) => (mean === null ? [] : [{ at: i / last, mean }]))
}

export type Cell = { row: number; column: number; mean: number }

export const cellsOf = (surface: Pick<Surface, 'means'>): Cell[] =>
  surface.means.flatMap((line, row) => line.flatMap((mean, column) => (mean === null ? [] : [{ row, column, mean }])))

// The shade of a cell, 0 the least mean of the surface and 1 the most; 1 everywhere where there is no difference.
export function shadeOf(cells: readonly Cell[]): (mean: number) => number {
  const means = cells.map((cell) => cell.mean)
  const [least, most] = [Math.min(...means), Math.max(...means)]
  return (mean) => (most - least < 0.0005 ? 1 : (mean - least) / (most - least))
}

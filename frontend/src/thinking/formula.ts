// What a formula may name, as the server says it too.
import type { RankerDocument } from '../api/queries'
import type { Completion } from './completion'
import { offsetsOf, type Wrong } from './place'

const shown = (kind: string, name: string) => (/^[\p{L}\p{N}_]+$/u.test(name) ? `${kind}.${name}` : `${kind}."${name}"`)

export function formulaNames(document: RankerDocument): string[] {
  const spaces = (document.spaces ?? []).map((one) => one.space)
  return [
    ...new Set([
      'words',
      'nearness',
      'rank.words',
      ...spaces.map((name) => shown('rank', name)),
      ...spaces.map((name) => shown('space', name)),
      ...document.readings.map((reading) => shown('reading', reading.field)),
      ...(document.signals ?? []).map((signal) => shown('signal', signal.field)),
    ]),
  ]
}

const FUNCTIONS = ['min', 'max', 'ln', 'sqrt', 'abs', 'above']
const MOST_SHOWN = 8

// What may be typed next in a formula: names and functions that begin so.
export function formulaOffer(source: string, caret: number, names: readonly string[]): Completion | null {
  const partial = /[\p{L}_][\p{L}\p{N}_."]*$/u.exec(source.slice(0, caret))?.[0] ?? ''
  if (partial === '') return null
  const begins = (name: string) => name.toLowerCase().startsWith(partial.toLowerCase()) && name !== partial
  const options = [
    ...names.filter(begins).map((insert) => ({ insert, note: '' })),
    ...FUNCTIONS.filter(begins).map((name) => ({ insert: `${name}(`, note: 'a function' })),
  ]
  return options.length ? { from: caret - partial.length, to: caret, options: options.slice(0, MOST_SHOWN) } : null
}

// What the server says is wrong with a formula, at its place: to the end of the name that stands there.
export function formulaWrong(
  source: string,
  where: string,
  problems: readonly { where: string; what: string }[],
): Wrong | null {
  const what = problems.find((one) => one.where === where)?.what
  if (what === undefined) return null
  const told = /^line (\d+), column (\d+): (.*)$/s.exec(what)
  if (!told) return { from: 0, to: source.length, message: what }
  const [from] = offsetsOf(source, { line: Number(told[1]), column: Number(told[2]), length: 1 })
  const name = /^[\p{L}\p{N}_."]+|^./su.exec(source.slice(from))?.[0] ?? ''
  return { from, to: from + name.length, message: told[3] ?? what }
}

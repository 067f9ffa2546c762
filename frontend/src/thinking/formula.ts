// What a formula may name, as the server says it too.
import type { RankerDocument } from '../api/queries'

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

// Figures of a comparison in words and coordinates.
import type { HeadToHead } from '../api/comparing'
import { measureText } from './figures'

export const pText = (p: number) => (p < 0.001 ? 'p < 0.001' : `p = ${p.toFixed(3)}`)

export const shareText = (share: number) =>
  share > 0 && share < 0.001 ? '< 0.1 %' : `${(100 * share).toFixed(share < 0.1 ? 1 : 0)} %`

export type Query = HeadToHead['queries'][number]

// The largest losses first.
export const byLoss = (queries: readonly Query[]) =>
  [...queries].sort((a, b) => a.second - a.first - (b.second - b.first) || (a.query < b.query ? -1 : 1))

// One sentence: what the difference is worth.
export function verdict(found: Pick<HeadToHead, 'comparison' | 'names'>): string {
  const { comparison, names } = found
  if (comparison.queries === 0) return 'No query is judged in both.'
  if (comparison.randomisation >= 0.05) return 'The difference is within luck.'
  return comparison.gain > 0
    ? `${names[1]} is better than ${names[0]}, more than luck would give.`
    : `${names[1]} is worse than ${names[0]}, more than luck would give.`
}

// What a slice's p-value is worth: corrected, since the more tags are looked at the sooner one stands out by luck.
export function sliceText({
  comparison,
  corrected,
}: Pick<HeadToHead['slices'][number], 'comparison' | 'corrected'>): string {
  const told =
    comparison.detectable === null
      ? ''
      : `; so few queries find a difference of ${measureText(comparison.detectable)} four times in five`
  return `randomisation ${pText(comparison.randomisation)}, corrected for the number of tags (Holm) ${pText(corrected)}${told}`
}

// Where a value between 0 and 1 lies on a line so wide.
export const along = (value: number, width: number) => Math.round(10 * Math.max(0, Math.min(1, value)) * width) / 10

// A p-value corrected for several comparisons, as a mark: nothing, or what level it passes.
export const mark = (corrected: number) =>
  corrected < 0.001 ? '***' : corrected < 0.01 ? '**' : corrected < 0.05 ? '*' : ''

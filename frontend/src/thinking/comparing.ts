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

// How large a difference these queries would find. No measure differs by more than 1.
export const detectableText = (detectable: number, needed: number) =>
  detectable > 1
    ? 'no difference that there can be: there are too few queries'
    : `a difference of ${measureText(detectable)}, four times in five; half of it takes ${needed.toLocaleString('en-US')} queries`

// What a slice's p-value is worth: corrected, since the more tags are looked at the sooner one stands out by luck.
export function sliceText({
  comparison,
  corrected,
}: Pick<HeadToHead['slices'][number], 'comparison' | 'corrected'>): string {
  const told =
    comparison.detectable === null || comparison.detectable > 1
      ? ''
      : `; so few queries find a difference of ${measureText(comparison.detectable)} four times in five`
  return `randomisation ${pText(comparison.randomisation)}, corrected for the number of tags (Holm) ${pText(corrected)}${told}`
}

// Where a value between 0 and 1 lies on a line so wide.
export const along = (value: number, width: number) => Math.round(10 * Math.max(0, Math.min(1, value)) * width) / 10

// A p-value corrected for several comparisons, as a mark: nothing, or what level it passes.
export const mark = (corrected: number) =>
  corrected < 0.001 ? '***' : corrected < 0.01 ? '**' : corrected < 0.05 ? '*' : ''

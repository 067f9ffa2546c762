// What is said of a field at a glance, and the bars of its distributions.
import type { FieldProfile } from '../api/records'
import { countText } from './figures'

type Distribution = NonNullable<FieldProfile['lengths']>
// unit: what is counted, nothing where it is the values themselves.
export type Spread = Distribution & { unit: string }

export type Bar = { from: number; to: number; count: number; title: string }
export type OnLine = { type: 'linear' | 'log'; bars: Bar[]; ticks: { at: number; text: string }[] | null }

const MOST_TICKS = 7

// Bars along an axis: an even one, with ticks of the plot's own, or one that goes by factors, with ticks at bounds of
// bins; a bin for zero comes before the first factor.
export function onLine({ bins, even, unit }: Spread): OnLine {
  const title = (bin: Distribution['bins'][number]) => `${boundText(bin)}${unit && ` ${unit}`}: ${countText(bin.count)}`
  if (even) {
    // What is all the same has a bar of some width.
    const bars = bins.map((bin) => {
      const half = bin.low === bin.high ? 0.5 : 0
      return { from: bin.low - half, to: bin.high + half, count: bin.count, title: title(bin) }
    })
    return { type: 'linear', bars, ticks: null }
  }
  const first = bins[0]?.low === 0 ? (bins[1]?.low ?? bins[0].high) : 0
  const factor = first > 0 ? (bins[1]?.high ?? 2 * first) / first : 0
  const at = (bound: number) => (bound === 0 ? first / factor : bound)
  const bars = bins.map((bin) => ({ from: at(bin.low), to: at(bin.high), count: bin.count, title: title(bin) }))
  const bounds = [...bins.map((bin) => bin.low), bins.at(-1)?.high ?? 0]
  const each = Math.ceil(bounds.length / MOST_TICKS)
  const ticks = bounds.filter((_, i) => i % each === 0).map((bound) => ({ at: at(bound), text: numberText(bound) }))
  return { type: 'log', bars, ticks }
}

// As people write it: years without a comma.
export function numberText(value: number): string {
  if (Number.isInteger(value) && Math.abs(value) < 1e15)
    return Math.abs(value) < 10_000 ? String(value) : countText(value)
  const size = Math.abs(value)
  return size >= 1e6 || size < 1e-4 ? value.toExponential(1) : String(Number(value.toPrecision(4)))
}

function boundText({ low, high }: { low: number; high: number }): string {
  return low === high ? numberText(low) : `${numberText(low)} to ${numberText(high)}`
}

// The least, the middle and the greatest, in words.
export function spreadText({ least, median, greatest, unit }: Spread): string {
  const of = unit && ` ${unit}`
  if (least === greatest) return `all ${numberText(least)}${of}`
  return `from ${numberText(least)} to ${numberText(greatest)}${of}, the middle one ${numberText(median)}`
}

export const shareText = (part: number, whole: number) => {
  if (whole === 0) return '–'
  const share = (100 * part) / whole
  if (part === whole) return '100 %'
  // Nearly all is not all, nearly none is not none.
  if (share > 99) return '> 99 %'
  if (part > 0 && share < 1) return '< 1 %'
  return `${Math.round(share)} %`
}

export const distinctText = (field: FieldProfile) => (field.distinct_is_exact ? '' : '> ') + countText(field.distinct)

// Numbers and dates have a distribution of their own; texts one of lengths.
export function distribution(field: FieldProfile): Spread | null {
  const numbers = field.numbers?.bins.reduce((sum, bin) => sum + bin.count, 0) ?? 0
  if (field.numbers && numbers * 2 >= field.values) return { ...field.numbers, unit: '' }
  return field.lengths && { ...field.lengths, unit: 'characters' }
}

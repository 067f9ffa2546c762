// What is said of a field at a glance, and the bars of its distributions.
import type { FieldProfile } from '../api/records'
import { countText } from './figures'

export type Bin = FieldProfile['lengths'][number]
export type Bar = { x: number; width: number; height: number; title: string }

// Bars side by side, the fullest as high as there is room.
export function bars(bins: readonly Bin[], unit: string, width: number, height: number): Bar[] {
  const most = Math.max(1, ...bins.map((bin) => bin.count))
  const each = width / Math.max(1, bins.length)
  return bins.map((bin, i) => ({
    x: i * each,
    width: Math.max(1, each - 1),
    // What is there is seen, however little it is.
    height: bin.count === 0 ? 0 : Math.max(1.5, (bin.count / most) * height),
    title: `${boundText(bin)} ${unit}: ${countText(bin.count)}`,
  }))
}

function boundText({ low, high }: Bin): string {
  const whole = Number.isInteger(low) && Number.isInteger(high)
  const text = (value: number) => (whole ? String(value) : value.toPrecision(4).replace(/\.?0+$/, ''))
  return low === high ? text(low) : `${text(low)} to ${text(high)}`
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
export function distribution(field: FieldProfile): { bins: readonly Bin[]; unit: string } {
  if (field.numbers.length > 0 && field.numbers.reduce((sum, bin) => sum + bin.count, 0) * 2 >= field.values) {
    return { bins: field.numbers, unit: '' }
  }
  return { bins: field.lengths, unit: 'characters' }
}

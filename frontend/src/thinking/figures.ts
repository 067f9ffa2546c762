// How numbers are written: three decimals for measures, signed deltas, a true minus sign.
const MINUS = '\u2212'

export const measureText = (value: number | undefined) => (value === undefined ? '–' : value.toFixed(3))

// What is between two figures, where both are there.
export const between = (before: number | undefined, after: number | undefined) =>
  before === undefined || after === undefined ? undefined : after - before

export const scoreText = (value: number) => value.toFixed(3)

const MOST_DIGITS = 8

// With how many decimals scores are written so that no two neighbours that differ look the same.
export function scoreDigits(scores: readonly number[]): number {
  const alike = (digits: number) =>
    scores.some((one, i) => {
      const next = scores[i + 1]
      return next !== undefined && next !== one && next.toFixed(digits) === one.toFixed(digits)
    })
  let digits = 3
  while (digits < MOST_DIGITS && alike(digits)) digits += 1
  return digits
}

export function deltaText(delta: number): string {
  const shown = Math.abs(delta).toFixed(3)
  if (shown === '0.000') return '0.000'
  return (delta > 0 ? '+' : MINUS) + shown
}

// A figure that may lie below 0, with a true minus.
export const signedText = (value: number, digits = 2) => value.toFixed(digits).replace('-', MINUS)

export const countText = (count: number) => count.toLocaleString('en-US')

export const weightText = (weight: number) => String(Math.round(weight * 100) / 100)

export function elapsedText(elapsedMs: number): string {
  return elapsedMs < 10 ? `${elapsedMs.toFixed(1)} ms` : `${Math.round(elapsedMs)} ms`
}

// What a measure is called on the page.
export const MEASURE_NAMES: Record<string, string> = {
  'ndcg@10': 'nDCG@10',
  ap: 'AP',
  rr: 'RR',
  'precision@10': 'P@10',
  'recall@100': 'R@100',
  'success@10': 'success@10',
  'judged@10': 'judged@10',
  'letters_saved@10': 'letters saved@10',
  'keystrokes_saved@10': 'keystrokes saved@10',
}

export function bytesText(bytes: number): string {
  if (bytes < 1_000) return `${bytes} B`
  if (bytes < 1_000_000) return `${(bytes / 1_000).toFixed(bytes < 100_000 ? 1 : 0)} kB`
  return bytes < 1e9 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(2)} GB`
}

// A draft is a kept ranker with some weights turned; the address of the page carries the weights.
import type { RankerDocument } from '../api/queries'

export const MOST_WEIGHT = 1_000_000

export function weightsOf(document: RankerDocument): number[] {
  return document.readings.map((reading) => reading.weight)
}

export function withWeights(document: RankerDocument, weights: readonly number[]): RankerDocument {
  return {
    ...document,
    readings: document.readings.map((reading, i) => ({ ...reading, weight: weights[i] ?? reading.weight })),
  }
}

// null where the draft is the baseline: the address stays short.
export function weightsParam(baseline: readonly number[], weights: readonly number[]): string | null {
  return weights.some((weight, i) => weight !== baseline[i]) ? weights.join(',') : null
}

// Weights from an address; anything that does not fit the ranker is passed over.
export function parsedWeights(param: string | null, baseline: readonly number[]): number[] {
  const parts = param?.split(',') ?? []
  if (parts.length !== baseline.length) return [...baseline]
  return parts.map((part, i) => {
    const weight = part.trim() === '' ? NaN : Number(part)
    return Number.isFinite(weight) && weight >= 0 && weight <= MOST_WEIGHT ? weight : (baseline[i] ?? 1)
  })
}

// A slider reaches to twice the kept weight, and to 10 at least.
export const reachOf = (weight: number) => Math.max(10, 2 * weight)

export function differences(document: RankerDocument, weights: readonly number[]): string[] {
  return document.readings.flatMap((reading, i) => {
    const now = weights[i] ?? reading.weight
    return now === reading.weight ? [] : [`${reading.field} weight ${reading.weight} to ${now}`]
  })
}

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

export function differences(document: RankerDocument, weights: readonly number[], chains: OwnChains = {}): string[] {
  return document.readings.flatMap((reading, i) => {
    const now = weights[i] ?? reading.weight
    const said = now === reading.weight ? [] : [`${reading.field} weight ${reading.weight} to ${now}`]
    return i in chains ? [...said, `${reading.field} read through another chain`] : said
  })
}

// A chain as a reading names it: notation or @name, or one for each language.
export type ReadingChain = RankerDocument['readings'][number]['chain']

export function chainText(chain: ReadingChain): string {
  if (typeof chain === 'string') return chain
  const own = Object.entries(chain).filter(([key]) => key !== 'by')
  return `by ${chain.by ?? ''}: ${own.map(([key, text]) => `${key}: ${text}`).join('; ')}`
}

// Chains that a draft reads instead of the baseline's, by the number of the reading: record chain and
// query chain, null where queries are read like records.
export type OwnChains = Record<number, [string, string | null]>

// A chain that names the word lists it reads in the versions they have now: a kept ranker would go on
// reading those it was kept with.
export function withListVersions(notation: string, lists: readonly { name: string; version: number }[]): string {
  return notation.replace(/@([\w-]+)(?=\s*[,)])/g, (said, name: string) => {
    const list = lists.find((one) => one.name === name)
    return list ? `${said}:${list.version}` : said
  })
}

export function withChains(document: RankerDocument, chains: OwnChains): RankerDocument {
  return {
    ...document,
    readings: document.readings.map((reading, i) => {
      const own = chains[i]
      return own ? { ...reading, chain: own[0], query_chain: own[1] } : reading
    }),
  }
}

export function chainsParam(chains: OwnChains): string | null {
  return Object.keys(chains).length ? JSON.stringify(chains) : null
}

// Chains from an address; anything that does not fit the ranker is passed over.
export function parsedChains(param: string | null, readings: number): OwnChains {
  if (param === null) return {}
  let found: unknown
  try {
    found = JSON.parse(param)
  } catch {
    return {}
  }
  if (typeof found !== 'object' || found === null) return {}
  const chains: OwnChains = {}
  for (const [key, value] of Object.entries(found)) {
    const place = /^\d{1,3}$/.test(key) ? Number(key) : NaN
    if (!(place < readings) || !Array.isArray(value)) continue
    const [chain, query] = value as unknown[]
    if (typeof chain === 'string' && (query === null || typeof query === 'string')) chains[place] = [chain, query]
  }
  return chains
}

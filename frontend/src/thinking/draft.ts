// A draft is a kept ranker with some parts changed; the address of the page carries what is changed: weights and
// chains by themselves, since they are changed most, everything else as parts of the document.
import type { RankerDocument } from '../api/queries'
import { knob } from './knobs'

// Parts of the document that differ from the baseline's.
export type OwnParts = Partial<RankerDocument>

const MOST_WEIGHT = knob('Reading', 'weight').most ?? 1

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

const PARTS: Record<keyof Omit<RankerDocument, 'readings'>, (value: unknown) => boolean> = {
  combine: (value) => isObject(value) && typeof value.how === 'string',
  need: (value) => typeof value === 'string' || typeof value === 'number' || isObject(value),
  spelling: (value) => value === null || isObject(value),
  signals: (value) => isListOf(value, (one) => typeof one.field === 'string' && typeof one.shape === 'string'),
  rules: (value) => isListOf(value, (one) => isObject(one.do)),
  filters: (value) => isListOf(value, (one) => typeof one.field === 'string'),
  one_per: (value) => value === null || typeof value === 'string',
  spaces: (value) => isListOf(value, (one) => typeof one.space === 'string'),
  blend: (value) => isObject(value),
  second_stage: (value) => value === null || (isObject(value) && typeof value.space === 'string'),
  kinds: (value) => isListOf(value, (one) => typeof one.name === 'string' && isObject(one.when) && isObject(one.blend)),
  equals_by: (value) => Array.isArray(value) && value.every((one) => typeof one === 'string'),
}

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
const isListOf = (value: unknown, fits: (one: Record<string, unknown>) => boolean) =>
  Array.isArray(value) && value.every((one: unknown) => isObject(one) && fits(one))
const isReading = (one: Record<string, unknown>) =>
  typeof one.field === 'string' &&
  (typeof one.chain === 'string' || isObject(one.chain)) &&
  typeof one.weight === 'number'

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)

// Parts from an address; anything that does not fit is passed over.
export function parsedParts(param: string | null): OwnParts {
  if (param === null) return {}
  let found: unknown
  try {
    found = JSON.parse(param)
  } catch {
    return {}
  }
  if (!isObject(found)) return {}
  const fitting = Object.entries(found).filter(([key, value]) =>
    key === 'readings'
      ? isListOf(value, isReading) && (value as unknown[]).length > 0
      : (PARTS as Record<string, (value: unknown) => boolean>)[key]?.(value),
  )
  return Object.fromEntries(fitting) as OwnParts
}

export type DraftParams = { w: string | null; ch: string | null; d: string | null }

// What an address has to carry so that the baseline becomes this document.
export function draftParams(baseline: RankerDocument, document: RankerDocument): DraftParams {
  const own: Record<string, unknown> = {}
  for (const key of Object.keys(PARTS) as (keyof typeof PARTS)[]) {
    if (!same(baseline[key], document[key])) own[key] = document[key]
  }
  const plain = { weight: 0, chain: '', query_chain: null }
  const onlyWeightsAndChains =
    baseline.readings.length === document.readings.length &&
    baseline.readings.every((reading, i) => same({ ...reading, ...plain }, { ...document.readings[i], ...plain }))
  if (!onlyWeightsAndChains) {
    return { w: null, ch: null, d: JSON.stringify({ ...own, readings: document.readings }) }
  }
  const chains: OwnChains = {}
  document.readings.forEach((reading, i) => {
    const old = baseline.readings[i]
    const moved = !same(old?.chain, reading.chain) || !same(old?.query_chain, reading.query_chain)
    if (moved && typeof reading.chain === 'string' && typeof reading.query_chain !== 'object')
      chains[i] = [reading.chain, reading.query_chain ?? null]
    else if (moved && typeof reading.chain === 'string' && reading.query_chain === null)
      chains[i] = [reading.chain, null]
    else if (moved) own.readings = document.readings
  })
  if ('readings' in own) return { w: null, ch: null, d: JSON.stringify(own) }
  return {
    w: weightsParam(weightsOf(baseline), weightsOf(document)),
    ch: chainsParam(chains),
    d: Object.keys(own).length ? JSON.stringify(own) : null,
  }
}

// The document that an address describes.
export function draftDocument(baseline: RankerDocument, params: DraftParams): RankerDocument {
  const own = { ...baseline, ...parsedParts(params.d) }
  const chained = withChains(own, parsedChains(params.ch, own.readings.length))
  return withWeights(chained, parsedWeights(params.w, weightsOf(own)))
}

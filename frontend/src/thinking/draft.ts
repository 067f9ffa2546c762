// A draft is a kept ranker with some parts changed; the address of the page carries what is changed, as parts of the
// document. Of readings only what is changed in each stands there, by its place, as long as none came or went.
import { same } from './same'
import type { RankerDocument } from '../api/queries'
import { knob } from './knobs'

type Reading = RankerDocument['readings'][number]

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

// A chain as a reading names it: notation or @name, or one for each language.
export type ReadingChain = Reading['chain']

export function chainText(chain: ReadingChain): string {
  if (typeof chain === 'string') return chain
  const own = Object.entries(chain).filter(([key]) => key !== 'by')
  return `by ${chain.by ?? ''}: ${own.map(([key, text]) => `${key}: ${text}`).join('; ')}`
}

// Of a chain for each language, the one for a language; the languages that have their own.
export function chainFor(chain: ReadingChain, language: string | null): string {
  if (typeof chain === 'string') return chain
  return chain[languageIn(chain, language)] ?? chain.else ?? ''
}

export function languagesOf(chain: ReadingChain): string[] {
  return typeof chain === 'string' ? [] : Object.keys(chain).filter((key) => key !== 'by')
}

// The entry that a language is read by.
export function languageIn(chain: ReadingChain, language: string | null): string {
  return languagesOf(chain).find((one) => one === language) ?? 'else'
}

export function withChainFor(chain: ReadingChain, language: string | null, notation: string): ReadingChain {
  return typeof chain === 'string' ? notation : { ...chain, [languageIn(chain, language)]: notation }
}

// Through what a reading reads records and queries; queries like records where it is null.
export type ReadThrough = { chain: ReadingChain; query_chain: ReadingChain | null }

export function readThrough({ chain, query_chain = null }: Reading): ReadThrough {
  return { chain, query_chain }
}

export function withChains(document: RankerDocument, place: number, chains: ReadThrough): RankerDocument {
  const readings = document.readings.map((reading, i) => (i === place ? { ...reading, ...chains } : reading))
  return { ...document, readings }
}

const PARTS: Record<keyof Omit<RankerDocument, 'readings'>, (value: unknown) => boolean> = {
  combine: (value) => isObject(value) && typeof value.how === 'string',
  need: (value) => typeof value === 'string' || typeof value === 'number' || isObject(value),
  spelling: (value) => value === null || isObject(value),
  typing: (value) => value === null || isObject(value),
  corrections: (value) => value === null || isObject(value),
  completions: (value) =>
    value === null || (isObject(value) && (value.sources === undefined || isListOf(value.sources, () => true))),
  feedback: (value) => value === null || isObject(value),
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
const isText = (value: unknown) => typeof value === 'string'
const isNumber = (value: unknown) => typeof value === 'number'

const OF_READING: Record<keyof Reading, (value: unknown) => boolean> = {
  field: isText,
  chain: (value) => isText(value) || isObject(value),
  query_chain: (value) => value === null || isText(value) || isObject(value),
  weight: (value) => typeof value === 'number' && value >= 0 && value <= MOST_WEIGHT,
  k1: isNumber,
  b: isNumber,
  share: isNumber,
  slack: (value) => typeof value === 'boolean',
  nearness: (value) => value === null || isObject(value),
  synonyms: isNumber,
}

const isReading = (one: Record<string, unknown>) =>
  OF_READING.field(one.field) && OF_READING.chain(one.chain) && OF_READING.weight(one.weight)

// What differs; null where nothing does: the address stays short.
export function draftParam(baseline: RankerDocument, document: RankerDocument): string | null {
  const own: Record<string, unknown> = {}
  for (const key of Object.keys(PARTS) as (keyof typeof PARTS)[]) {
    if (!same(baseline[key], document[key])) own[key] = document[key]
  }
  const readings = changedReadings(baseline.readings, document.readings)
  if (readings !== null) own.readings = readings
  return Object.keys(own).length ? JSON.stringify(own) : null
}

function changedReadings(baseline: readonly Reading[], readings: readonly Reading[]): unknown {
  if (baseline.length !== readings.length) return readings
  const changed: Record<number, Record<string, unknown>> = {}
  readings.forEach((reading, i) => {
    const before = baseline[i]
    const own = Object.entries(reading).filter(([key, value]) => !same(before?.[key as keyof Reading], value))
    if (own.length > 0) changed[i] = Object.fromEntries(own)
  })
  return Object.keys(changed).length ? changed : null
}

// The document that an address describes; what does not fit the ranker is passed over.
export function draftDocument(baseline: RankerDocument, param: string | null): RankerDocument {
  const found = parsed(param)
  const own = Object.fromEntries(
    Object.entries(found).filter(([key, value]) => (PARTS as Record<string, Check | undefined>)[key]?.(value)),
  ) as Partial<RankerDocument>
  return { ...baseline, ...own, readings: draftReadings(baseline.readings, found.readings) }
}

type Check = (value: unknown) => boolean

function draftReadings(baseline: RankerDocument['readings'], found: unknown): RankerDocument['readings'] {
  if (isListOf(found, isReading) && (found as unknown[]).length > 0) return found as RankerDocument['readings']
  if (!isObject(found)) return baseline
  return baseline.map((reading, i) => {
    const changed = found[i]
    if (!isObject(changed)) return reading
    const fitting = Object.entries(changed).filter(([key, value]) =>
      (OF_READING as Record<string, Check | undefined>)[key]?.(value),
    )
    return { ...reading, ...Object.fromEntries(fitting) }
  })
}

function parsed(param: string | null): Record<string, unknown> {
  if (param === null) return {}
  try {
    const found: unknown = JSON.parse(param)
    return isObject(found) ? found : {}
  } catch {
    return {}
  }
}

// Saved chains and word lists that a chain names, the versions in which a kept ranker reads them, and newer ones.
import type { RankerDocument } from '../api/queries'

export type Versions = { chain_versions: Record<string, number>; list_versions: Record<string, number> }
type Newest = readonly { name: string; version: number }[]

// What is read in an older version than there is. kind: how people call it.
export type Behind = { kind: 'chain' | 'word list'; name: string; version: number; newest: number }

const CHAIN = /^\s*@([\w-]+)(?::(\d+))?(?=\s*(?:>|$))/
const LISTS = /@([\w-]+)(?::(\d+))?(?=\s*[,)])/g

// versions: those of the ranker that reads the chain; what it has none for is read in the newest.
export function behindIn(notation: string, versions: Versions, chains: Newest, lists: Newest): Behind[] {
  const whole = CHAIN.exec(notation)
  const own = whole ? older('chain', whole[1], whole[2], versions.chain_versions, chains) : []
  const found = [...notation.matchAll(LISTS)].flatMap((one) =>
    older('word list', one[1], one[2], versions.list_versions, lists),
  )
  return [...own, ...found.filter((one, i) => found.findIndex((other) => other.name === one.name) === i)]
}

function older(
  kind: Behind['kind'],
  name: string | undefined,
  said: string | undefined,
  kept: Record<string, number>,
  all: Newest,
): Behind[] {
  const newest = all.find((one) => one.name === name)?.version
  if (name === undefined || newest === undefined) return []
  const version = said === undefined ? (kept[name] ?? newest) : Number(said)
  return version < newest ? [{ kind, name, version, newest }] : []
}

// The chain with one of them in its newest version.
export function withNewest(notation: string, { kind, name, newest }: Behind): string {
  if (kind === 'chain')
    return CHAIN.exec(notation)?.[1] === name ? notation.replace(CHAIN, `@${name}:${newest}`) : notation
  return notation.replace(LISTS, (said, own: string) => (own === name ? `@${name}:${newest}` : said))
}

type Chain = RankerDocument['readings'][number]['chain']

const chainsOf = (chain: Chain | null | undefined): string[] =>
  chain == null
    ? []
    : typeof chain === 'string'
      ? [chain]
      : Object.entries(chain).flatMap(([key, text]) => (key === 'by' ? [] : [text]))

const eachChain = (chain: Chain, change: (notation: string) => string): Chain =>
  typeof chain === 'string'
    ? change(chain)
    : Object.fromEntries(Object.entries(chain).map(([key, text]) => [key, key === 'by' ? text : change(text)]))

// The fields whose readings read a saved part in an older version.
export function fieldsBehind(
  document: RankerDocument,
  versions: Versions,
  part: { kind: Behind['kind']; name: string; version: number },
): string[] {
  const all = [{ name: part.name, version: part.version }]
  const [chains, lists] = part.kind === 'chain' ? [all, []] : [[], all]
  return document.readings
    .filter((reading) =>
      [...chainsOf(reading.chain), ...chainsOf(reading.query_chain)].some(
        (notation) => behindIn(notation, versions, chains, lists).length > 0,
      ),
    )
    .map((reading) => reading.field)
}

// A draft that reads a saved part in this version wherever it reads it.
export function withPart(
  document: RankerDocument,
  part: { kind: Behind['kind']; name: string; version: number },
): RankerDocument {
  const behind = { kind: part.kind, name: part.name, version: 0, newest: part.version }
  const change = (notation: string) => withNewest(notation, behind)
  return {
    ...document,
    readings: document.readings.map((reading) => ({
      ...reading,
      chain: eachChain(reading.chain, change),
      query_chain: reading.query_chain == null ? null : eachChain(reading.query_chain, change),
    })),
  }
}

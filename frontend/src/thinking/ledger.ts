// What parts of a ranker earn and cost, in words and tables.
import type { Ledger } from '../api/tuning'
import { howParam, type Rules } from './how'
import { signedText } from './figures'
import { same } from './same'

type Asked = Rules & { ranker: string; version: number; document: unknown; measure: string }

// Whether a ledger, or what would help, tells of this ranker, by this measure and these rules, on this set.
export function isOfDraft(told: Pick<Ledger, 'plan' | 'judged_set'>, asked: Asked, set: string): boolean {
  const { plan } = told
  return (
    told.judged_set === set &&
    plan.ranker === asked.ranker &&
    plan.version === asked.version &&
    plan.measure === asked.measure &&
    howParam(plan) === howParam(asked) &&
    same(plan.document ?? null, asked.document)
  )
}

// What a part costs; below 0 it spares something.
export function bytesDelta(bytes: number): string {
  if (bytes === 0) return '0'
  const large = Math.abs(bytes) >= 1e6
  return `${signedText(bytes / (large ? 1e6 : 1e3), 1)} ${large ? 'MB' : 'kB'}`
}

// Ten microseconds are less than two measurements differ by.
export const timeDelta = (ms: number) => (Math.abs(ms) < 0.01 ? '0 ms' : `${signedText(ms, 2)} ms`)

export const ledgerTable = (ledger: Ledger): (string | number)[][] => [
  ['verdict', 'kind', 'part', 'earns', 'low', 'high', 'saved', 'harmed', 'index bytes', 'ms a query'],
  ...ledger.lines.map(({ kind, name, earning, index_bytes, ms }) => [
    ...[earning.earns, kind, name, earning.loses, earning.low, earning.high, earning.saved, earning.harmed],
    ...[index_bytes, ms],
  ]),
]

// Lists beside the draft's: kept versions by name, and parked drafts by what their addresses carry.
import type { Ranker, RankerChoice } from '../api/queries'
import { draftDocument } from './draft'

export const MOST_BESIDE = 3

// Entries of the address: `first:2`, or a parked draft as `first:2~d`, what it changes as in the address.
export function parsedBeside(param: string | null): string[] {
  return (param ?? '')
    .split(' ')
    .filter((one) => /^[^~]+:\d+(~.*)?$/.test(one))
    .slice(0, MOST_BESIDE)
}

export function parkedName(baseline: Ranker, param: string | null): string {
  return `${baseline.name}:${baseline.version}~${encodeURIComponent(param ?? '')}`
}

export type BesideList = { entry: string; name: string; choice: RankerChoice }

// The ranker that an entry stands for; null where it is not kept (any more).
export function besideList(entry: string, kept: readonly Ranker[]): BesideList | null {
  const [name = '', param] = entry.split('~')
  const ranker = kept.find((one) => `${one.name}:${one.version}` === name)
  if (!ranker) return null
  const choice = { name: ranker.name, version: ranker.version }
  const said = `${ranker.name} ${ranker.version}`
  if (param === undefined) return { entry, name: said, choice }
  return {
    entry,
    name: `draft of ${said}`,
    choice: { ...choice, document: draftDocument(ranker.filled_in, unpacked(param)) },
  }
}

function unpacked(part: string): string | null {
  try {
    return decodeURIComponent(part) || null
  } catch {
    return null
  }
}

// What can be compared or pooled: kept rankers, newest versions first, the draft where there is one, outside rankers.
import type { Outside, Side } from '../api/comparing'
import type { Ranker, RankerChoice } from '../api/queries'

export type NamedSide = { name: string; side: Side }

type DraftThere = { kept: readonly Ranker[]; isBaseline: boolean; choice: RankerChoice; baseline: Ranker } | null

export function sidesThere(draft: DraftThere, outside: readonly Outside[], set: string): NamedSide[] {
  if (!draft) return []
  const newest = [...draft.kept].sort((a, b) => b.version - a.version || (a.name < b.name ? -1 : 1))
  const first = newest.filter((one, i) => newest.findIndex((other) => other.name === one.name) === i)
  const older = newest.filter((one) => !first.includes(one))
  const kept = (one: Ranker): NamedSide => ({
    name: `${one.name}:${one.version}`,
    side: { ranker: { name: one.name, version: one.version } },
  })
  return [
    kept(draft.baseline),
    ...(draft.isBaseline ? [] : [{ name: 'the draft', side: { ranker: draft.choice } }]),
    ...first.filter((one) => one !== draft.baseline).map(kept),
    ...outside
      .filter((one) => one.lists[set] !== undefined)
      .map((one) => ({ name: `outside/${one.name}`, side: { ranker: {}, outside: one.name } })),
    ...older.filter((one) => one !== draft.baseline).map(kept),
  ]
}

// What is there already stands before what is proposed: the search from outside, or the earlier version of a ranker.
const isEarlier = (one: NamedSide, other: NamedSide) =>
  (one.side.outside !== undefined && other.side.outside === undefined) ||
  (!one.side.ranker.document &&
    one.side.ranker.name !== undefined &&
    one.side.ranker.name === other.side.ranker.name &&
    (one.side.ranker.version ?? Infinity) < (other.side.ranker.version ?? Infinity))

// Two rankers as a pair is read: before, after.
export const inOrder = (a: NamedSide, b: NamedSide): [NamedSide, NamedSide] => (isEarlier(b, a) ? [b, a] : [a, b])

// The two in the address, else the baseline and what is compared with it most likely.
export function pairOfSides(
  there: readonly NamedSide[],
  first: string | null,
  second: string | null,
): [NamedSide, NamedSide] | null {
  const a = there.find((one) => one.name === first) ?? there[0]
  const b = there.find((one) => one.name === second) ?? there.find((one) => one !== a)
  if (!a || !b) return null
  return first === null && second === null ? inOrder(a, b) : [a, b]
}

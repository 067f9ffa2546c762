import { describe, expect, it } from 'vitest'
import type { Outside } from '../api/comparing'
import type { Ranker } from '../api/queries'
import { inOrder, pairOfSides, sidesThere } from './sides'

const ranker = (name: string, version: number) => ({ name, version }) as Ranker
const outside = (name: string, sets: string[]) =>
  ({ name, lists: Object.fromEntries(sets.map((set) => [set, 3])) }) as unknown as Outside

describe('what can be compared', () => {
  const kept = [ranker('blended', 1), ranker('first', 1), ranker('first', 2)]
  const baseline = kept[1]!
  it('is the baseline, the draft, the newest of each, outside rankers with lists, and older ones', () => {
    const draft = { kept, isBaseline: false, choice: { name: 'first', version: 1 }, baseline }
    expect(
      sidesThere(draft, [outside('old', ['visitors']), outside('new', [])], 'visitors').map((one) => one.name),
    ).toEqual(['first:1', 'the draft', 'first:2', 'blended:1', 'outside/old'])
    expect(sidesThere(null, [], 'visitors')).toEqual([])
  })
  it('reads from what is there to what is proposed', () => {
    const old = { name: 'outside/old', side: { ranker: {}, outside: 'old' } }
    const draft = { name: 'the draft', side: { ranker: { name: 'first', version: 2, document: {} as never } } }
    const [one, two] = [1, 2].map((version) => ({
      name: `first:${version}`,
      side: { ranker: { name: 'first', version } },
    }))
    const blended = { name: 'blended:1', side: { ranker: { name: 'blended', version: 1 } } }
    expect(inOrder(two!, one!)).toEqual([one, two])
    expect(inOrder(one!, two!)).toEqual([one, two])
    expect(inOrder(two!, old)).toEqual([old, two])
    expect(inOrder(old, two!)).toEqual([old, two])
    // Neither is earlier: as they stand.
    expect(inOrder(two!, blended)).toEqual([two, blended])
    expect(inOrder(two!, draft)).toEqual([two, draft])
    expect(inOrder(old, old)).toEqual([old, old])
    // A draft comes after what is kept, even if it stands on an earlier version.
    const onFirst = { name: 'the draft', side: { ranker: { name: 'first', version: 1, document: {} as never } } }
    expect(inOrder(two!, onFirst)).toEqual([two, onFirst])
    // Without a choice only; what somebody chose stands as they chose it.
    const there = sidesThere({ kept, isBaseline: true, choice: {}, baseline: kept[2]! }, [], 'visitors')
    expect(pairOfSides(there.slice(0, 1).concat(there.slice(-1)), null, null)?.map((side) => side.name)).toEqual([
      'first:1',
      'first:2',
    ])
    expect(pairOfSides(there, 'first:2', 'first:1')?.map((side) => side.name)).toEqual(['first:2', 'first:1'])
  })
  it('begins with what is chosen, else with the first two that differ', () => {
    const there = sidesThere({ kept, isBaseline: true, choice: {}, baseline }, [], 'visitors')
    expect(pairOfSides(there, null, null)?.map((one) => one.name)).toEqual(['first:1', 'first:2'])
    expect(pairOfSides(there, 'blended:1', 'first:1')?.map((one) => one.name)).toEqual(['blended:1', 'first:1'])
    expect(pairOfSides(there, 'first:2', null)?.map((one) => one.name)).toEqual(['first:2', 'first:1'])
    expect(pairOfSides(there.slice(0, 1), null, null)).toBeNull()
  })
})

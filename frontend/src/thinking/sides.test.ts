import { describe, expect, it } from 'vitest'
import type { Outside } from '../api/comparing'
import type { Ranker } from '../api/queries'
import { pairOfSides, sidesThere } from './sides'

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
  it('begins with what is chosen, else with the first two that differ', () => {
    const there = sidesThere({ kept, isBaseline: true, choice: {}, baseline }, [], 'visitors')
    expect(pairOfSides(there, null, null)?.map((one) => one.name)).toEqual(['first:1', 'first:2'])
    expect(pairOfSides(there, 'blended:1', 'first:1')?.map((one) => one.name)).toEqual(['blended:1', 'first:1'])
    expect(pairOfSides(there, 'first:2', null)?.map((one) => one.name)).toEqual(['first:2', 'first:1'])
    expect(pairOfSides(there.slice(0, 1), null, null)).toBeNull()
  })
})

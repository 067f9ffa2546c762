import { expect, it } from 'vitest'
import type { Ranker } from '../api/queries'
import { besideList, parkedName, parsedBeside } from './beside'

const kept = [
  {
    name: 'first',
    version: 2,
    document: {},
    note: '',
    created_at: '',
    filled_in: {
      readings: [{ field: 'title', chain: 'words', weight: 3, k1: 1, b: 0.5 }],
      combine: { how: 'sum', share: 0, k1: 1.2 },
      need: 'any',
    },
  },
] as unknown as Ranker[]

it('a parked draft comes back from an address', () => {
  const entry = parkedName(kept[0] as Ranker, '{"need":"all","readings":{"0":{"weight":4.5}}}')
  expect(entry).not.toContain(' ')
  const list = besideList(parsedBeside(entry)[0] ?? '', kept)
  expect(list?.name).toBe('draft of first 2')
  expect(list?.choice.document).toMatchObject({ need: 'all', readings: [{ weight: 4.5 }] })
})

it('kept versions stand by name, at most three, and unknown ones are passed over', () => {
  expect(parsedBeside('first:1 first:2 x first:3 first:4')).toEqual(['first:1', 'first:2', 'first:3'])
  expect(besideList('first:2', kept)).toEqual({
    entry: 'first:2',
    name: 'first 2',
    choice: { name: 'first', version: 2 },
  })
  expect(besideList('other:1', kept)).toBeNull()
})

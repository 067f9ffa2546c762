import { compared, ownerPage, type Pair } from './comparing'
import { diaryOf } from './judging'
import { HOW } from './queries'
import { QueryClient } from '@tanstack/react-query'
import { expect, test } from 'vitest'
import { renew, renewVerdicts, type Change, type Renewing } from './subjects'

const KEYS: readonly (readonly unknown[])[] = [
  ['constants', 'stages'],
  ['collections', 'collections'],
  ['records', 'records', 'coast', 1],
  ['records', 'record', 'coast', 'sm1'],
  ['lists', 'search', 'coast', 'fog'],
  ['lists', 'search', 'shore', 'fog'],
  ['judging', 'judged sets', 'coast'],
  ['judging', 'set queries', 'coast', 'visitors'],
  ['measuring', 'overview', 'coast', 'visitors'],
  ['imports', 'import', '7'],
  ['people', 'me'],
]

// What is asked anew, as its key reads.
async function renewed(change: Change, renewing?: Renewing): Promise<string[]> {
  const client = new QueryClient()
  for (const key of KEYS) client.setQueryData(key, 'known')
  await renew(client, change, renewing)
  return KEYS.filter((key) => client.getQueryState(key)?.isInvalidated).map((key) => key.slice(1).join(' '))
}

test('what follows from a judged set is its lists, its queries and its figures, of its collection alone', async () => {
  expect(await renewed('judging', { collection: 'coast' })).toEqual([
    'collections',
    'judged sets coast',
    'set queries coast visitors',
    'overview coast visitors',
  ])
})

test('what somebody may is asked anew when collections are made or renamed, and not when a set is judged', async () => {
  expect(await renewed('collections')).toEqual(['collections', 'me'])
  expect(await renewed('judging')).not.toContain('me')
})

test('nothing is asked about what is gone', async () => {
  expect(await renewed('judging', { collection: 'coast', gone: 'visitors' })).toEqual([
    'collections',
    'judged sets coast',
  ])
})

test('everything is everything but what never changes', async () => {
  expect(await renewed('everything')).toEqual(KEYS.slice(1).map((key) => key.slice(1).join(' ')))
})

test('of records that somebody else changed, one that may be gone is not asked for', async () => {
  const all = await renewed('everything', { elsewhere: true })
  expect(all).not.toContain('record coast sm1')
  expect(all).toContain('records coast 1')
})

test('what there is, is asked before what is asked about it', async () => {
  const client = new QueryClient()
  const order: string[] = []
  for (const key of [
    ['measuring', 'overview', 'coast'],
    ['measuring', 'outside', 'coast'],
  ])
    client.setQueryData(key, 'known')
  client.getQueryCache().subscribe((event) => {
    if (event.type === 'updated' && event.action.type === 'invalidate') order.push(String(event.query.queryKey[1]))
  })
  await renew(client, 'measuring')
  expect(order).toEqual(['outside', 'overview'])
})

test('locked queries that were opened renew every verdict over the open ones and the diary, and ask no locked one', async () => {
  const client = new QueryClient()
  const pair = (part: 'open' | 'locked'): Pair => ({
    ...{ first: { ranker: { name: 'words' } }, second: { ranker: { name: 'blended' } }, measure: 'ndcg@10' },
    how: { ...HOW, part },
  })
  const keys = {
    open: compared('saltmere', 'visitors', pair('open')).queryKey,
    locked: compared('saltmere', 'visitors', pair('locked')).queryKey,
    page: ownerPage('saltmere', 'visitors', pair('open')).queryKey,
    diary: diaryOf('saltmere').queryKey,
    nothing: compared('saltmere', 'visitors', null).queryKey,
    other: compared('elsewhere', 'visitors', pair('open')).queryKey,
    overview: ['measuring', 'overview', 'saltmere', 'visitors', [], [], {}],
  }
  for (const key of Object.values(keys)) client.setQueryData(key, 1)
  await renewVerdicts(client, 'saltmere')
  const asked = Object.entries(keys).filter(([, key]) => client.getQueryState(key)?.isInvalidated)
  expect(asked.map(([name]) => name)).toEqual(['open', 'page', 'diary'])
})

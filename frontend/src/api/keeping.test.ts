import { expect, test } from 'vitest'
import { keptKey } from './keeping'

const key = ['lists', 'search', 'saltmere', 'fog bell', { name: 'words' }]
const former = (...of: unknown[]) => keptKey(key, 4).placeholderData('the former list', { queryKey: of })

test('a turn of the ranker keeps the former list', () => {
  expect(former('lists', 'search', 'saltmere', 'fog bell', { name: 'words', version: 2 })).toBe('the former list')
})

test('another query, collection or kind of answer keeps nothing', () => {
  expect(former('lists', 'search', 'saltmere', 'fog', { name: 'words' })).toBeUndefined()
  expect(former('lists', 'search', 'harbour', 'fog bell', { name: 'words' })).toBeUndefined()
  expect(former('lists', 'why', 'saltmere', 'fog bell', { name: 'words' })).toBeUndefined()
})

test('a question of another shape is another question', () => {
  expect(former('lists', 'search', 'saltmere', 'fog bell')).toBeUndefined()
  expect(former('lists', 'search', 'saltmere', 'fog bell', { name: 'words' }, 20)).toBeUndefined()
})

test('parts are alike when they say the same', () => {
  const asked = ['lists', 'why', { query: 'fog', key: 'a' }, 1]
  expect(keptKey(asked, 3).placeholderData('why', { queryKey: ['lists', 'why', { query: 'fog', key: 'a' }, 2] })).toBe(
    'why',
  )
  expect(
    keptKey(asked, 3).placeholderData('why', { queryKey: ['lists', 'why', { query: 'fog', key: 'b' }, 2] }),
  ).toBeUndefined()
})

test('before anything was asked there is nothing to keep', () => {
  expect(keptKey(key, 4).placeholderData(undefined, undefined)).toBeUndefined()
})

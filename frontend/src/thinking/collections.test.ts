import { expect, test } from 'vitest'
import { firstShown } from './collections'

const named = (name: string, default_ranker: string | null = 'start') => ({ name, default_ranker })

test('the bare address leads to the collection last used, while there is one of this name', () => {
  const all = [named('acts'), named('coast'), named('saltmere')]
  expect(firstShown(all, 'coast')?.name).toBe('coast')
  expect(firstShown(all, 'gone')?.name).toBe('saltmere')
  expect(firstShown(all, null)?.name).toBe('saltmere')
})

test('without the demo it leads to one that can be searched', () => {
  expect(firstShown([named('acts', null), named('coast')], null)?.name).toBe('coast')
  expect(firstShown([named('acts', null), named('coast', null)], null)?.name).toBe('acts')
  expect(firstShown([], 'coast')).toBeUndefined()
})

import { expect, test } from 'vitest'
import { usualSet } from './judged-sets'

test('what people judged comes before what was made up', () => {
  expect(usualSet(['simulated', 'visitors'])).toBe('visitors')
  expect(usualSet(['simulated'])).toBe('simulated')
  expect(usualSet([])).toBeNull()
})

import { expect, test } from 'vitest'
import { filterExample, jsonFilterExample, orderExample } from './examples'

const field = (name: string, kind: string, role: string | null = null) => ({ name, kind, role })

test('examples are of the collection’s own fields, never of its key', () => {
  const fields = [
    field('sku', 'exact', 'key'),
    field('brand', 'exact'),
    field('price', 'number'),
    field('text', 'text'),
  ]
  expect(filterExample(fields)).toBe('brand=…, price:1..10')
  expect(orderExample(fields)).toBe('-price, brand')
  expect(jsonFilterExample(fields)).toBe('[{"field": "brand", "one_of": ["…"]}]')
})

test('without such fields they say what they can', () => {
  expect(filterExample([field('name', 'text')])).toBe('name=…')
  expect(orderExample([field('made', 'date')])).toBe('-made')
  expect([filterExample([]), orderExample([]), jsonFilterExample([])]).toEqual([
    'field=…',
    '-field',
    '[{"field": "field", "one_of": ["…"]}]',
  ])
})

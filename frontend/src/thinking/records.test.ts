import { describe, expect, it } from 'vitest'
import type { Collection } from '../api/queries'
import { shownFields, valueText } from './records'

const collection = (...fields: [name: string, kind: 'text' | 'number' | 'flag', isKey?: boolean][]): Collection => ({
  name: 'coast',
  records: 1,
  revision: 1,
  default_ranker: null,
  judged_sets: [],
  fields: fields.map(([name, kind, is_key = false]) => ({ name, kind, is_key })),
})

describe('how a record is shown', () => {
  it('takes the title and the long text by their usual names', () => {
    const shown = shownFields(collection(['id', 'text', true], ['description', 'text'], ['year', 'number'], ['title', 'text']))
    expect(shown).toEqual({ title: 'title', body: 'description', small: ['year'] })
  })

  it('makes do with what there is', () => {
    expect(shownFields(collection(['id', 'text', true], ['year', 'number']))).toEqual({ title: 'year', body: null, small: [] })
    expect(shownFields(collection(['id', 'text', true], ['a', 'text'], ['b', 'text']))).toEqual({ title: 'a', body: 'b', small: [] })
    expect(shownFields(collection(['id', 'text', true]))).toEqual({ title: '', body: null, small: [] })
  })

  it('writes any value as text, several one apart as the server counts them', () => {
    expect([null, undefined, 1690, true, ['wool', 'brass'], 'x'].map(valueText)).toEqual(['', '', '1690', 'true', 'wool\nbrass', 'x'])
  })
})

import { describe, expect, it } from 'vitest'
import type { Collection } from '../api/queries'
import { mainField, shownFields, titleOf, valueText } from './records'

const collection = (display: Collection['display'], names: string[] = ['id', 'title']): Collection => ({
  name: 'coast',
  records: 1,
  rejected: 0,
  revision: 1,
  default_ranker: null,
  judged_sets: [],
  judged_revisions: {},
  display,
  fields: names.map((name) => ({
    name,
    kind: 'text',
    several: false,
    role: name === 'id' ? 'key' : null,
    passages: null,
  })),
})

describe('how a record is shown', () => {
  it('gives fields with room of their own, and those of the line', () => {
    const shown = shownFields(
      collection({
        title: 'title',
        picture: 'picture',
        fields: [
          { field: 'year', length: 'line' },
          { field: 'text', length: 'short' },
          { field: 'place', length: 'line' },
          { field: 'notes', length: 'whole' },
        ],
      }),
    )
    expect(shown.line).toEqual(['year', 'place'])
    expect(shown.blocks.map(({ field }) => field)).toEqual(['text', 'notes'])
    expect([shown.title, shown.picture]).toEqual(['title', 'picture'])
  })

  it('makes do with what there is', () => {
    expect(mainField(collection({ title: 'title', fields: [{ field: 'text', length: 'short' }] }))).toBe('text')
    expect(mainField(collection({ title: 'title', fields: [] }))).toBe('title')
    expect(mainField(collection({ fields: [] }))).toBe('title')
    expect(mainField(collection({ fields: [] }, ['id']))).toBe('')
    const none = shownFields(collection({ fields: [] }))
    expect(titleOf(none, 'sm1', { title: 'Fog' })).toBe('sm1')
    expect(titleOf({ ...none, title: 'title' }, 'sm1', { title: 'Fog' })).toBe('Fog')
    expect(titleOf({ ...none, title: 'title' }, 'sm1', { title: null })).toBe('sm1')
  })

  it('writes any value as text, several one apart as the server counts them', () => {
    expect([null, undefined, 1690, true, ['wool', 'brass'], 'x'].map(valueText)).toEqual([
      '',
      '',
      '1690',
      'true',
      'wool\nbrass',
      'x',
    ])
  })
})

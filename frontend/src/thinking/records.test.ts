import { describe, expect, it } from 'vitest'
import type { Collection } from '../api/queries'
import { hasPages, isPage, placesText, mainField, shownFields, titleOf, valueText } from './records'

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

describe('a page', () => {
  it('is told by a field that has the places of its words', () => {
    const field = { name: 'places', kind: 'exact', several: false, passages: null } as const
    expect(hasPages({ fields: [{ ...field, role: 'places' }] })).toBe(true)
    expect(hasPages({ fields: [{ ...field, role: null }] })).toBe(false)
  })
  it('is told by its values', () => {
    expect(isPage({ a: 1, b: ['x'], places: `text 4 8139fbc0 100 200.5 ${'0'.repeat(64)}` })).toBe(true)
    expect(isPage({ places: 'text 4 8139fbc0 100 200' })).toBe(false)
    expect(isPage({})).toBe(false)
  })
  it('says where its words stand without naming all of them', () => {
    expect(placesText(`my%20text 1843 8139fbc0 2480 3508.5 ${'0'.repeat(64)}`)).toBe(
      'places of the 1,843 letters of my text, on a page of 2480 × 3508.5',
    )
    expect(placesText('whatever else')).toBe('whatever else')
    expect(placesText(undefined)).toBe('')
  })
})

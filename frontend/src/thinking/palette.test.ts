import { describe, expect, it } from 'vitest'
import { search, type Found } from './palette'

const of = (name: string, kind: Found['kind'] = 'view', note = '') => ({ kind, name, note, to: `/${name}` })
const names = (found: Found[]) => found.map((one) => one.name)

describe('the palette', () => {
  it('finds what holds every word, names that begin so first', () => {
    const all = [of('Head to head'), of('Diary'), of('The head'), of('Ahead'), of('head')]
    expect(names(search(all, 'head'))).toEqual(['head', 'Head to head', 'The head', 'Ahead'])
    expect(names(search(all, 'to HEAD'))).toEqual(['Head to head'])
    expect(search(all, 'nothing')).toEqual([])
  })
  it('looks through what is said beside a name, and passes over accents', () => {
    const all = [of('Why', 'view', 'Ranking'), of('Hôpital', 'query', 'école')]
    expect(names(search(all, 'why rank'))).toEqual(['Why'])
    expect(names(search(all, 'hopital ecole'))).toEqual(['Hôpital'])
  })
  it('shows places and actions before anything is typed, and no queries', () => {
    expect(names(search([of('fog', 'query'), of('Records', 'place')], ' '))).toEqual(['Records'])
  })
  it('ends somewhere', () => {
    const many = Array.from({ length: 70 }, (_, i) => of(`fog ${i}`))
    expect(search(many, 'fog')).toHaveLength(60)
    const queries = Array.from({ length: 13 }, (_, i) => of(`fog ${i}`, 'query'))
    expect(names(search([...queries, of('fog and more')], 'fog'))).toEqual([
      ...names(queries.slice(0, 12)),
      'fog and more',
    ])
  })
})

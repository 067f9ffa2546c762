import { describe, expect, it } from 'vitest'
import { mayLook, movedFrom, searchBody, titleOf } from './engineer'

describe('the tools of engineers', () => {
  const person = (roles: Record<string, string>, keeper = false) => ({ needs_sign_in: true, person: { keeper, roles } })
  it('are for whoever may look at the collection', () => {
    expect(mayLook({ needs_sign_in: false, person: null }, 'saltmere')).toBe(true)
    expect(mayLook({ needs_sign_in: true, person: null }, 'saltmere')).toBe(false)
    expect(mayLook(person({ saltmere: 'reader' }), 'saltmere')).toBe(true)
    expect(mayLook(person({ saltmere: 'judge' }), 'saltmere')).toBe(false)
    expect(mayLook(person({ ferries: 'owner' }), 'saltmere')).toBe(false)
    expect(mayLook(person({}, true), 'saltmere')).toBe(true)
  })

  it('tell how a row moved', () => {
    expect([movedFrom(0, undefined), movedFrom(2, 2), movedFrom(1, 4), movedFrom(4, 1)]).toEqual([
      'new',
      '=',
      '▲ 3',
      '▼ 3',
    ])
  })

  it('ask the workbench what the visitor asked', () => {
    const asked = { query: 'lamp', chosen: { place: ['Quay', 'Yard'] }, sort: '-year', page: 3, asSaid: true }
    expect(searchBody(asked, { name: 'first', version: 2 })).toEqual({
      query: 'lamp',
      ranker: { name: 'first', version: 2 },
      filters: [{ field: 'place', one_of: ['Quay', 'Yard'] }],
      sort: ['-year'],
      as_said: true,
      top: 10,
      skip: 20,
    })
    expect(searchBody({ ...asked, chosen: {}, sort: '', page: 1 }, { name: 'first', version: 2 })).toMatchObject({
      filters: [],
      sort: [],
      skip: 0,
    })
    expect(titleOf({ name: 'first', version: 2 })).toBe('first:2')
  })
})

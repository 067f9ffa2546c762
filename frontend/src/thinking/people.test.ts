import { describe, expect, it } from 'vitest'
import type { Me, Role } from '../api/people'
import { placeToGoOn, rightsIn, roleIn } from './people'

const signedIn = (roles: Record<string, Role>, keeper = false): Me => ({
  needs_sign_in: true,
  elsewhere: null,
  person: { name: 'ib', shown: 'Ib', has_password: true, keeper, makes_collections: false, roles },
})

describe('what somebody may do', () => {
  it('goes by the role in the collection', () => {
    const rights = (role: Role) => rightsIn(signedIn({ ferries: role }), 'ferries')
    expect(rights('judge')).toEqual({ look: false, change: false, own: false, keep: false, make: false })
    expect(rights('reader')).toEqual({ look: true, change: false, own: false, keep: false, make: false })
    expect(rights('engineer')).toEqual({ look: true, change: true, own: false, keep: false, make: false })
    expect(rights('owner')).toEqual({ look: true, change: true, own: true, keep: false, make: false })
    expect(rightsIn(signedIn({ ferries: 'owner' }), 'pier').look).toBe(false)
  })

  it('is everything for keepers, and where nobody signs in', () => {
    expect(roleIn(signedIn({}, true), 'pier')).toBe('keeper')
    const here: Me = { needs_sign_in: false, elsewhere: null, person: null }
    expect(rightsIn(here, 'pier')).toEqual({ look: true, change: true, own: true, keep: true, make: true })
    expect(roleIn({ ...here, needs_sign_in: true }, 'pier')).toBe(null)
  })

  it('is making collections for those whom keepers let, whatever they may elsewhere', () => {
    const told = signedIn({ ferries: 'reader' })
    const lets: Me = { ...told, person: told.person && { ...told.person, makes_collections: true } }
    expect(rightsIn(lets, 'ferries')).toEqual({ look: true, change: false, own: false, keep: false, make: true })
    expect(rightsIn(lets, '').make).toBe(true)
    expect(rightsIn(told, '').make).toBe(false)
  })
})

describe('after signing in', () => {
  it('one goes on where one wanted to, and nowhere else', () => {
    expect(placeToGoOn('/ferries/ranking?q=tide')).toBe('/ferries/ranking?q=tide')
    for (const wanted of [null, '', 'https://elsewhere.example', '//elsewhere.example', '/\\elsewhere.example'])
      expect(placeToGoOn(wanted)).toBe('/')
  })
})

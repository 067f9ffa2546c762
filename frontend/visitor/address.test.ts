import { describe, expect, it } from 'vitest'
import { addressOf, askedIn, NOTHING, toggled } from './address'

const read = (text: string) => askedIn(new URLSearchParams(text))

describe('a link', () => {
  it('shows the same list to whoever gets it', () => {
    const asked = {
      query: 'brass & lamp',
      chosen: { place: ['Kestrel Ness', 'Tidewick'], 'a.b': ['x=y'] },
      sort: '-year',
      page: 3,
      asSaid: true,
    }
    expect(askedIn(addressOf(asked, new URLSearchParams()))).toEqual(asked)
  })

  it('keeps what else the address says', () => {
    const after = addressOf({ ...NOTHING, query: 'eel' }, new URLSearchParams('key=abc&q=old&page=4&is.place=Quay'))
    expect(after.toString()).toBe('key=abc&q=eel')
  })

  it.each(['0', '-1', '1.5', 'x', '1001', ''])('with the page %s shows the first', (page) => {
    expect(read(`page=${page}`).page).toBe(1)
  })

  it('with the last page that there is shows that', () => {
    expect(read('page=1000').page).toBe(1000)
  })

  it('without anything asks nothing', () => {
    expect(read('')).toEqual(NOTHING)
    expect(read('is.=x&is.place=')).toEqual(NOTHING)
  })
})

describe('a value', () => {
  it('is chosen and no longer, and the list begins anew', () => {
    const once = toggled({ ...NOTHING, page: 4 }, 'place', 'Quay')
    expect(once).toEqual({ ...NOTHING, chosen: { place: ['Quay'] } })
    const both = toggled(once, 'place', 'Yard')
    expect(both.chosen).toEqual({ place: ['Quay', 'Yard'] })
    expect(toggled(toggled(both, 'place', 'Quay'), 'place', 'Yard').chosen).toEqual({})
  })
})

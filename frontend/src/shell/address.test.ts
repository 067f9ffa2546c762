import { describe, expect, it } from 'vitest'
import { carried } from './address'

describe('the address', () => {
  it('carries query, draft, baseline and set from place to place, and nothing else', () => {
    const params = new URLSearchParams('q=fog+bell&d=%7B%7D&row=sm0001&tag=x&set=visitors&ranker=first:1')
    expect(carried(params)).toBe('?q=fog+bell&d=%7B%7D&ranker=first%3A1&set=visitors')
  })

  it('lets a place add its own, and stays empty where there is nothing', () => {
    expect(carried(new URLSearchParams('q=old'), { q: 'å & b' })).toBe('?q=%C3%A5+%26+b')
    expect(carried(new URLSearchParams())).toBe('')
  })
})

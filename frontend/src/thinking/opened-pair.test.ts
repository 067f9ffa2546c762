import { describe, expect, it } from 'vitest'
import { openedPair } from './opened-pair'

describe('a query with both rankers’ lists', () => {
  const from = new URLSearchParams('set=visitors&ranker=first:1&d={}&view=head&first=x')
  const opened = (first: string, second: string) =>
    Object.fromEntries(new URLSearchParams(openedPair(from, first, second, 'fog bell')))
  it('shows the second one and the first beside it', () => {
    expect(opened('first:1', 'blended:2')).toEqual({
      q: 'fog bell',
      set: 'visitors',
      ranker: 'blended:2',
      beside: 'first:1',
    })
  })
  it('keeps the draft a draft', () => {
    expect(opened('first:1', 'the draft')).toEqual({
      q: 'fog bell',
      set: 'visitors',
      ranker: 'first:1',
      d: '{}',
      beside: 'first:1',
    })
    expect(opened('the draft', 'blended:2').beside).toBe('blended:2')
  })
  it('shows ours alone where the other is from outside', () => {
    expect(opened('outside/old', 'blended:2')).toEqual({ q: 'fog bell', set: 'visitors', ranker: 'blended:2' })
    expect(opened('first:1', 'outside/old')).toEqual({ q: 'fog bell', set: 'visitors', ranker: 'first:1' })
  })
})

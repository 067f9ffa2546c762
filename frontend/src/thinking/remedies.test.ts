import { describe, expect, test } from 'vitest'
import type { Remedies, RemedyGroup, Tried } from '../api/tuning'
import { groupHint, groupTitle, isBeyondLuck, remediesTable, triedInAll } from './remedies'

const tried = (words: string, p = 1) =>
  ({ words, gain: 0.1, low: 0, high: 0.2, gained: 3, lost: 1, gained_here: 2, lost_here: 0, p }) as unknown as Tried
const group = (ails: RemedyGroup['ails'], part = '', ...own: Tried[]) =>
  ({ ails, part, queries: [], tried: own, untried: 0 }) as RemedyGroup

test('a group says what ails it, and by which part', () => {
  expect(groupTitle(group('outranked', 'title'))).toBe('Outranked by title')
  expect(groupTitle(group('unknown words'))).toBe('Words that no record holds')
  expect(groupHint(group('outranked'))).toBeNull()
  expect(groupHint(group('unjudged above'))).toContain('unjudged')
})

describe('luck', () => {
  test('just below the share it is beyond luck, at it no longer', () => {
    expect(isBeyondLuck({ p: 0.00499 }, 10)).toBe(true)
    expect(isBeyondLuck({ p: 0.005 }, 10)).toBe(false)
  })
  test('a change that is tried for two groups is one look', () => {
    expect(triedInAll([group('other words', '', tried('a'), tried('b')), group('too few words', '', tried('a'))])).toBe(
      2,
    )
  })
})

test('each change of each group is a row', () => {
  const rows = remediesTable({ groups: [group('other words', '', tried('a'), tried('b'))] } as Remedies)
  expect(rows.map((row) => row[2])).toEqual(['change', 'a', 'b'])
})

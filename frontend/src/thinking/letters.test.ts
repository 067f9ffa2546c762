import { describe, expect, it } from 'vitest'
import type { QueryTyped, SetTyped } from '../api/letters'
import {
  arrivalText,
  byLetters,
  letterAt,
  lettersOf,
  lettersTable,
  lettersText,
  pointsByLetter,
  typedAt,
} from './letters'

const letter = (rank: number | null) => ({ typed: 'x', records: 3, keys: [], rank })
const typed = (change: Partial<QueryTyped>): QueryTyped => ({
  ...{ query_id: 'q1', query: 'fog bell', of: 8, letters: 3, keystrokes: 5, best: 1, before: null },
  ...change,
})

it('counts letters as a person does', () => {
  expect(lettersOf('né')).toEqual(['n', 'é'])
  expect(lettersOf('👩‍🚒!')).toEqual(['👩‍🚒', '!'])
})

describe('what is typed so far', () => {
  it('is the first letters, and all of it where there are not so many', () => {
    expect(typedAt('fog', 2)).toBe('fo')
    expect([typedAt('fog', 3), typedAt('fog', 4), typedAt('fog', 0), typedAt('fog', null)]).toEqual(
      Array.from({ length: 4 }, () => 'fog'),
    )
  })
  it('ends with the last letter where the address says nothing that makes sense', () => {
    expect([letterAt('2', 3), letterAt('3', 3), letterAt('4', 3)]).toEqual([2, 3, 3])
    expect([letterAt(null, 3), letterAt('0', 3), letterAt('1.5', 3), letterAt('x', 3)]).toEqual([3, 3, 3, 3])
  })
})

describe('when the wanted record arrives', () => {
  const says = (...ranks: (number | null)[]) => arrivalText(ranks.map(letter), 'sm1')
  it('is the first letter with which it is among the first ten', () => {
    expect(says(null, 11, 10, 2)).toBe('sm1 is among the first ten from letter 3 on.')
    expect(says(null, 3, 1, 1)).toBe('sm1 is among the first ten from letter 2 on, and first at letter 3.')
  })
  it('tells of a letter with which it is gone again', () => {
    expect(says(4, 11, 1)).toBe(
      'sm1 is among the first ten from letter 1 on, but not at letter 2, and first at letter 3.',
    )
    expect(says(4, null)).toBe('sm1 is among the first ten from letter 1 on, but not at letter 2.')
  })
  it('says so where it never comes, or not so far', () => {
    expect(says(null, null)).toBe('sm1 is not found by any letter.')
    expect(says(null, 30, 20)).toBe('sm1 never comes among the first ten; by letter 2 it is at 30.')
  })
})

describe('a set that was typed', () => {
  it('has those that moved most on top, then those that are never found, then those that take long', () => {
    const ids = (...queries: QueryTyped[]) => byLetters(queries).map((one) => one.query_id)
    expect(
      ids(
        typed({ query_id: 'slow', letters: 7 }),
        typed({ query_id: 'never', of: 4, letters: 5 }),
        typed({ query_id: 'quick', letters: 2 }),
      ),
    ).toEqual(['never', 'slow', 'quick'])
    expect(
      ids(typed({ query_id: 'still', letters: 8, before: 8 }), typed({ query_id: 'moved', letters: 2, before: 5 })),
    ).toEqual(['moved', 'still'])
  })
  it('is found within its letters, and never beyond them', () => {
    expect([lettersText({ of: 4 }, 4), lettersText({ of: 4 }, 5), lettersText({ of: 4 }, null)]).toEqual([
      '4',
      'never',
      '',
    ])
  })
  it('is drawn from nothing typed on, beside what it is compared with', () => {
    const told = {
      ...{ first: 10, queries: [typed({})], letters: 3, keystrokes: 5, best: 1, found: 1, compared: null, notes: [] },
      ...{ by_letter: [0.5, 1], before_by_letter: [0, 1] },
    } as SetTyped
    expect(pointsByLetter(told, ['draft', 'first 1']).map((one) => [one.whose, one.letter, one.share])).toEqual([
      ['draft', 0, 0],
      ['draft', 1, 0.5],
      ['draft', 2, 1],
      ['first 1', 0, 0],
      ['first 1', 1, 0],
      ['first 1', 2, 1],
    ])
    expect(lettersTable(told)[1]).toEqual(['q1', 'fog bell', 3, 8, 5, 1, ''])
  })
})

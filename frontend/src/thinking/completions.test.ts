import { describe, expect, it } from 'vitest'
import {
  bytesText,
  gatheringShare,
  gatheringText,
  kindOf,
  optionAfter,
  piecesOf,
  sourceOf,
  sourceText,
  toldText,
  usualSources,
  COMPLETIONS,
} from './completions'

const TOLD = {
  own: true,
  usual: [],
  suggestions: 1200,
  entries: 3400,
  bytes: 900_000,
  too_long: 0,
  withheld: 0,
  read: 0,
  records: 320,
  past: null,
  gathering: null,
}

describe('a suggestion', () => {
  it('shows the letters that were typed, counted as people see them', () => {
    expect(piecesOf({ text: '🐋 whale bone', start: 2, end: 5 })).toEqual([
      { text: '🐋 ', marked: false },
      { text: 'wha', marked: true },
      { text: 'le bone', marked: false },
    ])
    expect(piecesOf({ text: 'log', start: 0, end: 3 })).toEqual([{ text: 'log', marked: true }])
  })
})

describe('a source', () => {
  it('is told by what it is of', () => {
    expect(sourceText(sourceOf('values', 'title'))).toBe('values of title')
    expect(sourceText(sourceOf('phrases', 'notes'))).toBe('phrases of notes')
    expect(sourceText(sourceOf('asked', 'title'))).toBe('past queries')
    expect(sourceText(undefined)).toBe('')
    expect(kindOf(sourceOf('asked', ''))).toBe('asked')
  })
  it('has what its kind has and nothing of another', () => {
    expect(sourceOf('values', 'title')).toEqual({ values: 'title', by: null, worth: 1 })
    expect(sourceOf('phrases', 'notes')).toEqual({ phrases: 'notes', fewest: 2, words: 3, records: 3, worth: 0.5 })
    expect(sourceOf('asked', '')).toEqual({ asked: 1, worth: 1 })
  })
})

describe('the usual', () => {
  it('has every knob, whatever the server leaves out', () => {
    expect(usualSources({ ...TOLD, usual: [{ asked: 1 }, { phrases: 'notes' }] })).toEqual([
      sourceOf('asked', ''),
      sourceOf('phrases', 'notes'),
    ])
    expect(COMPLETIONS).toEqual({
      sources: [],
      begins: 'word',
      popular: 0.5,
      later: 0.6,
      slack: 1,
      slack_from: 4,
      fold: true,
      language: null,
      withhold: null,
    })
  })
})

describe('what there is to suggest', () => {
  it('tells what was left out only where something was', () => {
    expect(toldText(TOLD)).toBe('1,200 suggestions · 3,400 places to begin at · 900 kB')
    expect(toldText({ ...TOLD, too_long: 4, withheld: 2, read: 200, bytes: 1_250_000 })).toBe(
      '1,200 suggestions · 3,400 places to begin at · 1.3 MB · 4 longer texts left out · 2 withheld · phrases of the first 200 records',
    )
    expect(toldText({ ...TOLD, read: 320 })).not.toContain('phrases')
  })
  it('is at least a kilobyte', () => {
    expect([bytesText(3), bytesText(999_499), bytesText(1_000_000)]).toEqual(['1 kB', '999 kB', '1.0 MB'])
  })
})

describe('the arrow keys', () => {
  it('go through the suggestions and back to what was typed', () => {
    expect(optionAfter('ArrowDown', -1, 2)).toBe(0)
    expect(optionAfter('ArrowDown', 1, 2)).toBe(-1)
    expect(optionAfter('ArrowUp', -1, 2)).toBe(1)
    expect(optionAfter('ArrowUp', 0, 2)).toBe(-1)
  })
  it('and no other key, and none where nothing is suggested', () => {
    expect(optionAfter('Home', 0, 2)).toBeNull()
    expect(optionAfter('ArrowDown', -1, 0)).toBeNull()
  })
})

describe('suggestions that are being gathered', () => {
  const under = { doing: 'phrases of title', done: 2, of: 5, elapsed_s: 3.6 }

  it('say with what, and how far they are', () => {
    expect(gatheringText(under)).toBe('Gathering suggestions: phrases of title, step 3 of 5, 4 s so far.')
    expect(gatheringShare(under)).toEqual({ value: 2, max: 5 })
  })

  it('say no more than is known at the beginning', () => {
    const begun = { doing: '', done: 0, of: 0, elapsed_s: 0.1 }
    expect(gatheringText(begun)).toBe('Gathering suggestions: beginning, 0 s so far.')
    expect(gatheringShare(begun)).toEqual({})
  })
})

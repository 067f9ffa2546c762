import { describe, expect, it } from 'vitest'
import {
  added,
  fits,
  moved,
  placed,
  reordered,
  offAfter,
  parsedOff,
  removed,
  replaced,
  writtenOut,
  type Call,
} from './cards'

function calls(notation: string, ...stages: [string, Call['kind']][]): Call[] {
  let from = 0
  return stages.map(([text, kind]) => {
    const start = Array.from(notation.slice(0, notation.indexOf(text, from))).length
    from = notation.indexOf(text, from) + text.length
    return { name: text.replace(/\(.*/, ''), text, start, end: start + Array.from(text).length, kind }
  })
}

const NOTATION = '# 🌫 fog\nnfkc > words >\n  lower > stem(en) # ends\n'
const CALLS = calls(
  NOTATION,
  ['nfkc', 'text stage'],
  ['words', 'tokenizer'],
  ['lower', 'token stage'],
  ['stem(en)', 'token stage'],
)

describe('cards', () => {
  it('keep layout and comments when a stage moves', () => {
    expect(moved(NOTATION, CALLS, 3, 2)).toBe('# 🌫 fog\nnfkc > words >\n  stem(en) > lower # ends\n')
  })
  it('stand where their text stands after a change', () => {
    const next = moved(NOTATION, CALLS, 3, 2)
    const now = placed(next, reordered(CALLS, 3, 2))
    expect(now.map((call) => call.text)).toEqual(['nfkc', 'words', 'stem(en)', 'lower'])
    expect(fits(next, now)).toBe(true)
    expect(fits(next, CALLS)).toBe(false)
  })
  it('take the sign with the stage that goes', () => {
    expect(removed(NOTATION, CALLS, 3)).toBe('# 🌫 fog\nnfkc > words >\n  lower # ends\n')
    expect(removed(NOTATION, CALLS, 0)).toBe('# 🌫 fog\nwords >\n  lower > stem(en) # ends\n')
    expect(removed('words', calls('words', ['words', 'tokenizer']), 0)).toBe('')
  })
  it('replace one stage by another', () => {
    expect(replaced(NOTATION, CALLS, 3, 'stem(de)')).toContain('lower > stem(de) # ends')
  })
  it('put a new stage where its kind belongs', () => {
    const notation = 'nfkc > words > lower'
    const three = calls(notation, ['nfkc', 'text stage'], ['words', 'tokenizer'], ['lower', 'token stage'])
    expect(added(notation, three, 'accents', 'token stage')).toBe('nfkc > words > lower > accents')
    expect(added(notation, three, 'markup', 'text stage')).toBe('nfkc > markup > words > lower')
    expect(added(notation, three, 'letters', 'tokenizer')).toBe('nfkc > letters > lower')
    const two = calls('words > lower', ['words', 'tokenizer'], ['lower', 'token stage'])
    expect(added('words > lower', two, 'nfc', 'text stage')).toBe('nfc > words > lower')
    expect(added('', [], 'lower', 'token stage')).toBe('words > lower')
    expect(added('words > lower', [], 'accents', 'token stage')).toBe('words > lower > accents')
    expect(added('words > lower', [], 'markup', 'text stage')).toBe('markup > words > lower')
    expect(added('words > lower', [], 'blanks', 'tokenizer')).toBe('words > lower')
    expect(added('', [], 'markup', 'text stage')).toBe('markup > words')
  })
})

describe('a saved chain with stages after it', () => {
  const notation = '@english:2 > prefixes(1, 8)'
  const saved = { name: '@english:2', text: '@english:2', start: 0, end: 10, kind: null, saved: 'words > lower' }
  const both = [saved, ...calls(notation, ['prefixes(1, 8)', 'token stage'])]
  it('is written out where it stands', () => {
    expect(writtenOut(notation, both)).toBe('words > lower > prefixes(1, 8)')
    expect(writtenOut('words', calls('words', ['words', 'tokenizer']))).toBe('words')
  })
  it('takes token stages behind it, and is written out for what stands before a tokenizer', () => {
    expect(added(notation, both, 'accents', 'token stage')).toBe('@english:2 > prefixes(1, 8) > accents')
    expect(added(notation, both, 'markup', 'text stage')).toBe('markup > words > lower > prefixes(1, 8)')
    expect(added(notation, both, 'blanks', 'tokenizer')).toBe(notation)
  })
})

describe('stages switched off', () => {
  it('stay off when others move or go', () => {
    expect(offAfter([2], 4, 2, 3)).toEqual([3])
    expect(offAfter([3], 4, 0, null)).toEqual([2])
    expect(offAfter([1], 4, 1, null)).toEqual([])
  })
  it('are read from an address that anybody may have typed', () => {
    expect(parsedOff('1,x,3,99,,2')).toEqual([1, 3, 2])
    expect(parsedOff(null)).toEqual([])
  })
})

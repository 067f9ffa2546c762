import { describe, expect, it } from 'vitest'
import type { RankerDocument } from '../api/queries'
import { behindIn, fieldsBehind, withNewest, withPart } from './reads'

const versions = { chain_versions: { english: 2 }, list_versions: { sea: 4 } }
const chains = [{ name: 'english', version: 3 }]
const lists = [
  { name: 'sea', version: 5 },
  { name: 'names', version: 1 },
]
const sea = { kind: 'word list' as const, name: 'sea', version: 4, newest: 5 }

describe('what is read in an older version', () => {
  it('is told of lists by the version of the ranker, or the one that is written', () => {
    expect(behindIn('words > synonyms(@sea, beside=no) > as_is(@names)', versions, chains, lists)).toEqual([sea])
    expect(behindIn('words > synonyms(@sea:3)', versions, chains, lists)).toEqual([{ ...sea, version: 3 }])
    expect(behindIn('words > synonyms(@sea:5)', versions, chains, lists)).toEqual([])
    // Whatever the ranker did not read yet is read in the newest.
    expect(behindIn('words > synonyms(@sea)', { chain_versions: {}, list_versions: {} }, chains, lists)).toEqual([])
    expect(behindIn('words > synonyms(@gone)', versions, chains, lists)).toEqual([])
  })

  it('is told once of a list that stands twice', () => {
    expect(behindIn('words > synonyms(@sea) > as_is(@sea)', versions, chains, lists)).toEqual([sea])
  })

  it('is told of a saved chain', () => {
    const chain = { kind: 'chain', name: 'english', version: 2, newest: 3 }
    expect(behindIn(' @english ', versions, chains, lists)).toEqual([chain])
    expect(behindIn('@english:3', versions, chains, lists)).toEqual([])
    expect(behindIn('@english > synonyms(@sea)', versions, chains, lists)).toEqual([chain, sea])
    expect(behindIn('@englishes > lower', versions, chains, lists)).toEqual([])
  })
})

describe('the newest version', () => {
  it('is taken where the part stands, and nowhere else', () => {
    expect(withNewest('words > synonyms(@sea, beside=no) > as_is(@seafolk)', sea)).toBe(
      'words > synonyms(@sea:5, beside=no) > as_is(@seafolk)',
    )
    expect(withNewest('@english:1', { kind: 'chain', name: 'english', version: 1, newest: 3 })).toBe('@english:3')
    expect(withNewest('@english > lower', { kind: 'chain', name: 'english', version: 1, newest: 3 })).toBe(
      '@english:3 > lower',
    )
    expect(withNewest('@german', { kind: 'chain', name: 'english', version: 1, newest: 3 })).toBe('@german')
  })

  it('is taken into every reading of a draft, for each language and for queries too', () => {
    const readings = [
      { field: 'title', chain: 'words > synonyms(@sea)', query_chain: null },
      {
        field: 'text',
        chain: { by: 'language', en: 'words', else: 'words > synonyms(@sea:2)' },
        query_chain: 'words > synonyms(@sea)',
      },
      { field: 'maker', chain: 'words', query_chain: null },
    ]
    const document = { readings } as unknown as RankerDocument
    const part = { kind: 'word list' as const, name: 'sea', version: 5 }
    expect(fieldsBehind(document, versions, part)).toEqual(['title', 'text'])
    const taken = withPart(document, part)
    expect(taken.readings.map(({ chain, query_chain }) => [chain, query_chain])).toEqual([
      ['words > synonyms(@sea:5)', null],
      [{ by: 'language', en: 'words', else: 'words > synonyms(@sea:5)' }, 'words > synonyms(@sea:5)'],
      ['words', null],
    ])
    expect(fieldsBehind(taken, versions, part)).toEqual([])
  })
})

import { describe, expect, it } from 'vitest'
import type { RankerDocument } from '../api/queries'
import {
  chainText,
  chainsParam,
  draftDocument,
  draftParams,
  parsedChains,
  parsedParts,
  parsedWeights,
  weightsParam,
  withChains,
  withListVersions,
  withWeights,
} from './draft'

const reading = { query_chain: null, k1: 1.2, b: 0.75, share: 0, slack: true, nearness: null }
const document: RankerDocument = {
  readings: [
    { ...reading, field: 'title', chain: 'words', weight: 3 },
    { ...reading, field: 'description', chain: 'words', weight: 1 },
  ],
  combine: { how: 'sum', share: 0, k1: 1.2 },
  need: 'any',
  spelling: null,
  signals: [],
  rules: [],
  filters: [],
  one_per: null,
  equals_by: [],
  spaces: [],
  blend: { how: 'reciprocal_rank', meaning: 0.5, k: 60, normalise: 'min_max', fetch: 1000, depth: 50, formula: null },
  second_stage: null,
  kinds: [],
}

describe('a draft in the address', () => {
  it('comes back as it went', () => {
    const param = weightsParam([3, 1], [4.5, 1])
    expect(parsedWeights(param, [3, 1])).toEqual([4.5, 1])
  })

  it('is left out where it is the baseline', () => {
    expect(weightsParam([3, 1], [3, 1])).toBeNull()
  })

  it('falls back to the baseline where it makes no sense', () => {
    for (const param of ['x,1', ',1', '-2,1', 'Infinity,1', '1e99,1']) {
      expect(parsedWeights(param, [3, 1])).toEqual([3, 1])
    }
    expect(parsedWeights('1', [3, 1])).toEqual([3, 1])
  })
})

describe('the document of a draft', () => {
  it('changes weights and nothing else, and leaves the baseline alone', () => {
    const draft = withWeights(document, [4.5, 1])
    expect(draft.readings.map((reading) => reading.weight)).toEqual([4.5, 1])
    expect({ ...draft, readings: [] }).toEqual({ ...document, readings: [] })
    expect(document.readings[0]?.weight).toBe(3)
  })
})

describe('any part of a draft', () => {
  const drafts: [string, RankerDocument][] = [
    ['a weight', withWeights(document, [4.5, 1])],
    ['a chain', withChains(document, { 1: ['words > lower', null] })],
    [
      'spelling slack',
      {
        ...document,
        spelling: {
          edits: 1,
          lengths: [5, 8],
          fixed_start: 0,
          most: 20,
          worth: 0.5,
          when: 'always',
          rare: 5,
          similar: null,
        },
      },
    ],
    ['words needed by length', { ...document, need: { '1': 'all', '4': '75%' } }],
    ['k1 of a reading', { ...document, readings: document.readings.map((one) => ({ ...one, k1: 2 })) }],
    [
      'one reading more',
      { ...document, readings: [...document.readings, { ...reading, field: 'maker', chain: 'words', weight: 2 }] },
    ],
    [
      'chains by language',
      { ...document, readings: document.readings.map((one) => ({ ...one, chain: { by: 'language', else: 'words' } })) },
    ],
    [
      'signals, rules and filters',
      {
        ...document,
        signals: [{ field: 'asked', shape: 'log', weight: 1, scale: 1, without: 0, now: null, how: 'add' }],
        rules: [{ when: {}, do: { pin: ['a'] }, reason: '', until: null, on: true }],
        filters: [{ field: 'kind', has: true }],
      },
    ],
  ]
  it.each(drafts)('comes back from an address: %s', (_, draft) => {
    expect(draftDocument(document, draftParams(document, draft))).toEqual(draft)
  })
  it('leaves the address empty where nothing is changed', () => {
    expect(draftParams(document, document)).toEqual({ w: null, ch: null, d: null })
  })
  it('is passed over where an address makes no sense', () => {
    for (const d of [
      'x',
      '3',
      '[]',
      '{"spelling":3}',
      '{"readings":[]}',
      '{"readings":[{"field":1}]}',
      '{"signals":[3]}',
      '{"odd":1}',
      '{"combine":null}',
    ]) {
      expect(parsedParts(d)).toEqual({})
    }
    expect(parsedParts('{"need":"all","odd":1}')).toEqual({ need: 'all' })
  })
})

describe('chains of a draft', () => {
  it('stand in the document in the place of the baseline’s, and in an address', () => {
    const chains = { 0: ['words', null] as [string, string | null] }
    expect(withChains(document, chains).readings[0]).toMatchObject({ chain: 'words', query_chain: null })
    expect(parsedChains(chainsParam(chains), 1)).toEqual(chains)
    expect(chainsParam({})).toBeNull()
  })
  it('are passed over where an address makes no sense', () => {
    for (const param of ['x', '3', '{"9":["words",null]}', '{"0":"words"}', '{"0":[1,null]}', '{"a":["b",null]}']) {
      expect(parsedChains(param, 1)).toEqual({})
    }
  })
  it('name the word lists they read in their present versions', () => {
    const lists = [{ name: 'sea', version: 3 }]
    expect(withListVersions('words > synonyms(@sea, beside=no) > as_is(@names)', lists)).toBe(
      'words > synonyms(@sea:3, beside=no) > as_is(@names)',
    )
    expect(withListVersions('words > synonyms(@sea:1)', lists)).toBe('words > synonyms(@sea:1)')
    expect(withListVersions('@sea', lists)).toBe('@sea')
  })
  it('are said in one line, one for each language too', () => {
    expect(chainText('words > lower')).toBe('words > lower')
    expect(chainText({ by: 'language', en: '@english', else: '@plain' })).toBe(
      'by language: en: @english; else: @plain',
    )
  })
})

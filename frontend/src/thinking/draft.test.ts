import { describe, expect, it } from 'vitest'
import type { RankerDocument } from '../api/queries'
import {
  chainFor,
  chainText,
  draftDocument,
  draftParam,
  languagesOf,
  readThrough,
  withChainFor,
  withChains,
  withWeights,
} from './draft'

const reading = { query_chain: null, k1: 1.2, b: 0.75, share: 0, slack: true, nearness: null, synonyms: 0.6 }
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
  const addressed = (draft: RankerDocument) => draftParam(document, draft)
  it('is what differs, of a reading by its place', () => {
    expect(addressed(withWeights(document, [3, 4.5]))).toBe('{"readings":{"1":{"weight":4.5}}}')
    expect(addressed({ ...document, need: 'all' })).toBe('{"need":"all"}')
  })

  it('holds whole readings where one came or went', () => {
    const fewer = { ...document, readings: document.readings.slice(1) }
    expect(addressed(fewer)).toBe(JSON.stringify({ readings: fewer.readings }))
  })

  it('is left out where it is the baseline', () => {
    expect(addressed(withWeights(document, [3, 1]))).toBeNull()
  })

  it('falls back to the baseline where it makes no sense', () => {
    for (const weight of ['"x"', '-0.01', '1000000.5', 'null']) {
      expect(draftDocument(document, `{"readings":{"0":{"weight":${weight}}}}`)).toEqual(document)
    }
    for (const weight of [0, 1_000_000]) {
      expect(draftDocument(document, `{"readings":{"0":{"weight":${weight}}}}`).readings[0]?.weight).toBe(weight)
    }
    for (const readings of [
      '{"2":{"weight":1}}',
      '{"0":3}',
      '{"0":{"odd":1,"slack":"no"}}',
      '{"a":{"weight":1}}',
      '3',
    ]) {
      expect(draftDocument(document, `{"readings":${readings}}`)).toEqual(document)
    }
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
    ['a chain', withChains(document, 1, { chain: 'words > lower', query_chain: null })],
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
    expect(draftDocument(document, draftParam(document, draft))).toEqual(draft)
  })
  it('may suggest from the usual sources, which are not named', () => {
    expect(draftDocument(document, JSON.stringify({ completions: {} })).completions).toEqual({})
    expect(draftDocument(document, JSON.stringify({ completions: { sources: 3 } })).completions).toBeUndefined()
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
      expect(draftDocument(document, d)).toEqual(document)
    }
    expect(draftDocument(document, '{"need":"all","odd":1}')).toEqual({ ...document, need: 'all' })
  })
})

describe('chains of a draft', () => {
  it('stand in the document in the place of the baseline’s', () => {
    const taken = withChains(document, 0, { chain: 'words', query_chain: 'words > lower' })
    expect(taken.readings[0]).toMatchObject({ chain: 'words', query_chain: 'words > lower' })
    expect(taken.readings[1]).toEqual(document.readings[1])
  })
  it('are given back as the baseline has them', () => {
    expect(readThrough({ field: 'title', chain: 'words', weight: 1 } as RankerDocument['readings'][number])).toEqual({
      chain: 'words',
      query_chain: null,
    })
  })
  it('are those of a language where they go by language', () => {
    const chain = { by: 'language', en: 'words > stem(en)', else: 'words' }
    expect([chainFor(chain, 'en'), chainFor(chain, 'de'), chainFor(chain, null), chainFor('spaces', 'en')]).toEqual([
      'words > stem(en)',
      'words',
      'words',
      'spaces',
    ])
    expect(languagesOf(chain)).toEqual(['en', 'else'])
    expect(withChainFor(chain, 'en', 'whole')).toEqual({ ...chain, en: 'whole' })
    expect(withChainFor(chain, 'de', 'whole')).toEqual({ ...chain, else: 'whole' })
    expect(withChainFor('words', 'en', 'whole')).toBe('whole')
  })
  it('are said in one line, one for each language too', () => {
    expect(chainText('words > lower')).toBe('words > lower')
    expect(chainText({ by: 'language', en: '@english', else: '@plain' })).toBe(
      'by language: en: @english; else: @plain',
    )
  })
})

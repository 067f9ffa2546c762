import { describe, expect, it } from 'vitest'
import { chainText, chainsParam, differences, parsedChains, parsedWeights, weightsOf, weightsParam, withChains, withListVersions, withWeights } from './draft'

const document = {
  readings: [
    { field: 'title', chain: 'words', query_chain: null, weight: 3, k1: 1.2, b: 0.75 },
    { field: 'description', chain: 'words', query_chain: null, weight: 1, k1: 1.2, b: 0.75 },
  ],
  combine: { how: 'sum' as const },
  need: 'any' as const,
  equals_by: [],
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

  it('says in words what was changed', () => {
    expect(differences(document, [4.5, 1])).toEqual(['title weight 3 to 4.5'])
  })
})

describe('chains of a draft', () => {
  it('stand in the document in the place of the baseline’s, and in an address', () => {
    const chains = { 0: ['words', null] as [string, string | null] }
    expect(withChains(document, chains).readings[0]).toMatchObject({ chain: 'words', query_chain: null })
    expect(parsedChains(chainsParam(chains), 1)).toEqual(chains)
    expect(chainsParam({})).toBeNull()
    expect(differences(document, weightsOf(document), chains)).toEqual(['title read through another chain'])
  })
  it('are passed over where an address makes no sense', () => {
    for (const param of ['x', '3', '{"9":["words",null]}', '{"0":"words"}', '{"0":[1,null]}', '{"a":["b",null]}']) {
      expect(parsedChains(param, 1)).toEqual({})
    }
  })
  it('name the word lists they read in their present versions', () => {
    const lists = [{ name: 'sea', version: 3 }]
    expect(withListVersions('words > synonyms(@sea, keep=no) > keep(@names)', lists)).toBe('words > synonyms(@sea:3, keep=no) > keep(@names)')
    expect(withListVersions('words > synonyms(@sea:1)', lists)).toBe('words > synonyms(@sea:1)')
    expect(withListVersions('@sea', lists)).toBe('@sea')
  })
  it('are said in one line, one for each language too', () => {
    expect(chainText('words > lower')).toBe('words > lower')
    expect(chainText({ by: 'language', en: '@english', else: '@plain' })).toBe('by language: en: @english; else: @plain')
  })
})

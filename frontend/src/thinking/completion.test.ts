import { describe, expect, it } from 'vitest'
import type { Schemas } from '../api/client'
import { completion } from './completion'

type Parameter = Schemas['ParameterInfo']
const parameter = (over: Partial<Parameter>): Parameter => ({
  name: 'x',
  wanted: '',
  choices: [],
  list_kind: null,
  least: null,
  most: null,
  default: null,
  ...over,
})
const STAGES: Schemas['StageInfo'][] = [
  { name: 'nfkc', kind: 'text stage', parameters: [], summary: 'one form', example: '' },
  { name: 'words', kind: 'tokenizer', parameters: [], summary: 'cuts', example: '' },
  { name: 'prefixes', kind: 'tokenizer', parameters: [parameter({ default: '1' })], summary: 'text', example: '' },
  { name: 'prefixes', kind: 'token stage', parameters: [parameter({ default: '1' })], summary: 'tokens', example: '' },
  {
    name: 'stem',
    kind: 'token stage',
    parameters: [
      parameter({ name: 'language', choices: ['en', 'es', 'de'] }),
      parameter({ choices: ['full', 'light'], default: 'full' }),
    ],
    summary: 'stems',
    example: '',
  },
  {
    name: 'stopwords',
    kind: 'token stage',
    parameters: [parameter({ choices: ['en'], list_kind: 'words' })],
    summary: 'drops',
    example: '',
  },
]
const LISTS: Schemas['ListInUse'][] = [
  { name: 'kept', version: 2, kind: 'words', entries: 9, used_by: [] },
  { name: 'seafaring', version: 1, kind: 'synonyms', entries: 3, used_by: [] },
]
const offered = (source: string, caret = source.length) =>
  completion(source, caret, STAGES, LISTS)?.options.map((option) => option.insert) ?? null

describe('what may be typed next', () => {
  it('is a text stage or a tokenizer until the text is cut, then a token stage', () => {
    expect(offered('')).toEqual(['nfkc', 'words', 'prefixes'])
    expect(offered('nfkc > w')).toEqual(['words'])
    expect(offered('words > ')).toEqual(['prefixes', 'stem(', 'stopwords('])
    expect(offered('words > st')).toEqual(['stem(', 'stopwords('])
  })
  it('is nothing where a sign is missing, or all is typed', () => {
    expect(offered('words stem')).toBeNull()
    expect(offered('words')).toBeNull()
    expect(offered('words > # a note st')).toBeNull()
    expect(offered('words > xyz')).toBeNull()
  })
  it('is a choice or a list of the right kind inside a stage', () => {
    expect(offered('words > stem(e')).toEqual(['en', 'es'])
    expect(offered('words > stem(en, l')).toEqual(['light'])
    expect(offered('words > stopwords(@')).toEqual(['@kept'])
    expect(offered('find(/a(b')).toBeNull()
  })
  it('replaces the whole word that the caret is in', () => {
    expect(completion('words > stm(en)', 10, STAGES, LISTS)).toMatchObject({ from: 8, to: 11 })
  })
})

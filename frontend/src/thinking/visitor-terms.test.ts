import { describe, expect, it } from 'vitest'
import { formOf, NEW_TERMS, termsOf, toggledField } from './visitor-terms'

describe('terms', () => {
  it('of a form are read into the same form again', () => {
    const form = {
      ...NEW_TERMS,
      ranker: 'first:2',
      shown: ['title'],
      searched: ['title', 'text'],
      origins: 'https://a.example\nhttps://b.example',
      filters: '[\n  {\n    "field": "place",\n    "has": true\n  }\n]',
      perMinute: 9,
      keeps: false,
    }
    expect(formOf(termsOf(form))).toEqual(form)
    expect(termsOf(form)).toMatchObject({
      ranker: 'first',
      version: 2,
      origins: ['https://a.example', 'https://b.example'],
    })
  })

  it('without anything are as they are usually', () => {
    expect(formOf({})).toEqual(NEW_TERMS)
    expect(termsOf(NEW_TERMS)).toMatchObject({
      ranker: null,
      version: null,
      shown: null,
      filters: [],
      origins: [],
      keeps: true,
    })
  })

  it('with filters that are no JSON are no terms', () => {
    expect(() => termsOf({ ...NEW_TERMS, filters: '[' })).toThrow(SyntaxError)
  })
})

describe('fields', () => {
  const all = ['a', 'b', 'c']
  it('are all until one is taken away, and all again once it is back', () => {
    expect(toggledField(null, all, 'b')).toEqual(['a', 'c'])
    expect(toggledField(['a', 'c'], all, 'b')).toBeNull()
    expect(toggledField(['c'], all, 'a')).toEqual(['a', 'c'])
    expect(toggledField(['c'], all, 'c')).toEqual([])
  })
})

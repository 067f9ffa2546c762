import { describe, expect, it } from 'vitest'
import { LANGUAGES, textsFor } from './texts'

describe('texts', () => {
  it('are in the first language of the visitor that there are texts in', () => {
    expect(textsFor(['pt-BR', 'de-AT', 'en']).language).toBe('de')
    expect(textsFor(['no']).language).toBe('nb')
    expect(textsFor(['nn-NO']).language).toBe('nb')
    expect(textsFor(['xx']).language).toBe('en')
    expect(textsFor([]).language).toBe('en')
    expect(textsFor(['ES']).language).toBe('es')
  })

  it('count as the language does', () => {
    expect(textsFor(['en']).texts.found(1, 'eel')).toBe('1 result for “eel”')
    expect(textsFor(['en']).texts.found(1200, '')).toBe('1,200 results')
    // In French nothing is one.
    expect(textsFor(['fr']).texts.suggestions(0)).toBe('0 suggestion')
    expect(textsFor(['de']).texts.found(1200, 'Aal')).toBe('1.200 Treffer für „Aal“')
  })

  it.each(LANGUAGES)('say everything in %s', (language) => {
    const { texts } = textsFor([language])
    for (const [name, said] of Object.entries(texts)) {
      const given = name === 'quoted' ? [['lamp', 'tar']] : [2, 3]
      const text = typeof said === 'string' ? said : (said as (...given: unknown[]) => string)(...given)
      expect(text.trim()).not.toBe('')
      expect(text).not.toContain('undefined')
    }
  })

  it('list words as the language does', () => {
    expect(textsFor(['en']).texts.quoted(['lamp', 'tar', 'eel'])).toBe('“lamp”, “tar”, and “eel”')
    expect(textsFor(['de']).texts.quoted(['Lampe', 'Teer'])).toBe('„Lampe“ und „Teer“')
  })
})

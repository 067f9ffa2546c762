import { describe, expect, it } from 'vitest'
import type { ImportPlan } from '../api/records'
import { collectionName, withField, withRole } from './import-plan'

const field = (name: string, role: 'key' | 'title' | null = null) => ({
  name,
  role,
  kind: 'text' as const,
  several: false,
  split: null,
  keep: true,
})
const plan = {
  quote: '"',
  replace: false,
  key: 'id',
  fields: [field('id', 'key'), field('title', 'title'), field('nr')],
} as ImportPlan

describe('a plan while it is corrected', () => {
  it('changes one field and leaves the others', () => {
    const changed = withField(plan, 'nr', { kind: 'number' })
    expect(changed.fields?.map(({ kind }) => kind)).toEqual(['text', 'text', 'number'])
    expect(plan.fields?.map(({ kind }) => kind)).toEqual(['text', 'text', 'text'])
  })

  it('gives a role to one field at a time, and the key with it', () => {
    const changed = withRole(plan, 'nr', 'key')
    expect(changed.fields?.map(({ role }) => role)).toEqual([null, 'title', 'key'])
    expect(changed.key).toBe('nr')
    expect(withRole(plan, 'id', null).key).toBe(null)
    expect(withRole(plan, 'nr', 'title').key).toBe('id')
  })

  it('makes a name of a collection out of any file name', () => {
    expect(['Records.csv', 'Große Liste (2).json.gz', '../x', '???', '_a.b'].map(collectionName)).toEqual([
      'records',
      'gro-e-liste-2',
      'x',
      'collection',
      'a',
    ])
  })
})

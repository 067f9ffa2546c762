import { describe, expect, it } from 'vitest'
import type { KeptDraft } from '../api/drafts'
import { keptAs, offered } from './drafts'
import { same } from './same'

const draft = (id: number, change: Partial<KeptDraft> = {}): KeptDraft => ({
  id,
  ranker: 'first',
  version: 3,
  by_person: null,
  revision: 1,
  newest: 3,
  document: { need: 'all', readings: [{ field: 'title', weight: 2 }] },
  says: [],
  problem: null,
  begun_at: '',
  changed_at: '',
  ...change,
})

describe('a kept draft', () => {
  it('is the one in view where base and document agree, whatever the order of their parts', () => {
    const document = { readings: [{ weight: 2, field: 'title' }], need: 'all' }
    const all = [draft(1, { version: 2 }), draft(2, { ranker: 'other' }), draft(3)]
    expect(keptAs(all, { ranker: 'first', version: 3, document })?.id).toBe(3)
    expect(keptAs(all, { ranker: 'first', version: 3, document: { ...document, need: 'any' } })).toBeUndefined()
  })

  it('is another where a list stands in another order', () => {
    expect(same({ a: [1, 2] }, { a: [2, 1] })).toBe(false)
  })

  it('is offered while nothing is edited, unless it was put off', () => {
    const all = [draft(1), draft(2)]
    expect(offered(all, true, [])).toEqual(all)
    expect(offered(all, true, [1])).toEqual([draft(2)])
    expect(offered(all, false, [])).toEqual([])
  })
})

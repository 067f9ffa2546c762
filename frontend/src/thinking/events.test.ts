import { describe, expect, it } from 'vitest'
import { followed } from './events'

describe('followed', () => {
  it('asks only for the job that came further', () => {
    expect(followed({ subject: 'jobs', kind: 'import', id: 7, state: 'running' })).toEqual([['imports', 'import', '7']])
    expect(followed({ subject: 'jobs', kind: 'reading', id: 8, state: 'done' })).toEqual([['chains', 'reckoning', '8']])
    expect(followed({ subject: 'jobs', kind: 'filling', id: 9, state: 'running' })).toEqual([['spaces', 'spaces']])
  })
  it('asks for nothing when slabs are joined, which changes no answer', () => {
    expect(followed({ subject: 'jobs', kind: 'joining', id: 4, state: 'done' })).toEqual([])
  })
  it('asks for everything once vectors or records are others', () => {
    expect(followed({ subject: 'jobs', kind: 'filling', id: 9, state: 'done' })).toEqual(['everything'])
    expect(followed({ subject: 'records', id: 1, revision: 2 })).toEqual(['everything'])
  })
  it('measures anew once judgments or an outside list changed', () => {
    expect(followed({ subject: 'judging', id: 1, revision: 2 })).toEqual(['judging'])
    expect(followed({ subject: 'jobs', kind: 'asking', id: 3, state: 'failed' })).toEqual(['measuring'])
  })
  it('sees how far judges are as they say it', () => {
    expect(followed({ subject: 'said', id: 1 })).toEqual([
      ['judging', 'tasks'],
      ['judging', 'standing'],
    ])
  })
  it('looks at every job again where something may have been missed', () => {
    expect(followed({ subject: 'again' })).toEqual([
      ['imports', 'import'],
      ['spaces', 'spaces'],
      ['measuring', 'outside'],
      ['chains', 'reckoning'],
      ['tuning'],
      ['tuning', 'ledgers'],
      ['tuning', 'growth'],
      ['tuning', 'remedies'],
      ['tuning', 'first tunings'],
      ['judging', 'tasks'],
      ['judging', 'standing'],
      'following',
    ])
  })

  it('looks again how a following stands, and nowhere else', () => {
    expect(followed({ subject: 'following', id: 1 })).toEqual(['following'])
  })

  it('follows a tuning as it comes further, and at its end', () => {
    const told = { subject: 'jobs', kind: 'tuning', id: 7 } as const
    expect(followed({ ...told, state: 'running' })).toEqual([['tuning']])
    expect(followed({ ...told, state: 'done' })).toEqual([['tuning']])
  })
})

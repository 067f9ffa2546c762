import { describe, expect, it } from 'vitest'
import { followed, OF_JUDGING } from './events'

describe('followed', () => {
  it('asks only for the job that came further', () => {
    expect(followed({ subject: 'jobs', kind: 'import', id: 7, state: 'running' })).toEqual([['import', '7']])
    expect(followed({ subject: 'jobs', kind: 'reading', id: 8, state: 'done' })).toEqual([['reckoning', '8']])
    expect(followed({ subject: 'jobs', kind: 'filling', id: 9, state: 'running' })).toEqual([['spaces']])
  })
  it('asks for everything once vectors or records are others', () => {
    expect(followed({ subject: 'jobs', kind: 'filling', id: 9, state: 'done' })).toEqual(['all'])
    expect(followed({ subject: 'records', id: 1, revision: 2 })).toEqual(['all'])
  })
  it('measures anew once judgments or an outside list changed', () => {
    expect(followed({ subject: 'judging', id: 1, revision: 2 })).toContainEqual(['measured'])
    expect(followed({ subject: 'jobs', kind: 'asking', id: 3, state: 'failed' })).toEqual([
      ['outside'],
      ...OF_JUDGING.map((key) => [key]),
    ])
  })
  it('looks at every job again where something may have been missed', () => {
    expect(followed({ subject: 'again' })).toEqual([['import'], ['spaces'], ['outside'], ['reckoning']])
  })
})

import { describe, expect, it } from 'vitest'
import { complaintRequest, type Complaint } from './complaint'

const complaint = (more: Partial<Complaint>): Complaint => ({
  query: 'harpon',
  need: '',
  words: 'She found nothing.',
  wrong: 'missing',
  record: ' r4 ',
  number: 3,
  filters: [],
  ...more,
})

describe('a complaint', () => {
  it('asks for a grade and an expectation by what is wrong', () => {
    const asked = (more: Partial<Complaint>) => {
      const { record_key, grade, kind, number } = complaintRequest(complaint(more))
      return [record_key, grade, kind, number]
    }
    expect(asked({})).toEqual(['r4', 3, 'among_first', 3])
    expect(asked({ wrong: 'intruder' })).toEqual(['r4', 0, 'never', null])
    expect(asked({ wrong: 'nothing' })).toEqual([null, null, 'nothing', null])
  })
})

// What a complaint asks for: a grade for the record, and an expectation that every measurement checks.
import type { ComplaintRequest } from '../api/judging'
import type { FilterPart } from './ranker-parts'

export const WRONGS = {
  missing: 'this record belongs here, and is missing or too far down',
  intruder: 'this record does not belong here',
  nothing: 'nothing should be found: we do not have it',
} as const
export type Wrong = keyof typeof WRONGS

export type Complaint = {
  query: string
  need: string
  words: string
  wrong: Wrong
  record: string
  number: number
  filters: FilterPart[]
}

export function complaintRequest({ query, need, words, wrong, record, number, filters }: Complaint): ComplaintRequest {
  const said = { query, need, complaint: words, filters }
  if (wrong === 'nothing') return { ...said, record_key: null, grade: null, kind: 'nothing', number: null }
  if (wrong === 'intruder') return { ...said, record_key: record.trim(), grade: 0, kind: 'never', number: null }
  return { ...said, record_key: record.trim(), grade: 3, kind: 'among_first', number }
}

// An import plan while it is corrected: what was guessed stays until somebody says otherwise.
import type { FieldPlan, ImportPlan, Kind, Role } from '../api/records'

export const KINDS: Kind[] = ['text', 'exact', 'number', 'date', 'flag']

export const KIND_WORDS: Record<Kind, string> = {
  text: 'text: words to be searched',
  exact: 'exact: a code or one of a few values',
  number: 'number',
  date: 'date, as 1846-05-03',
  flag: 'flag: true or false',
}

export function withField(plan: ImportPlan, name: string, change: Partial<FieldPlan>): ImportPlan {
  return {
    ...plan,
    fields: (plan.fields ?? []).map((field) => (field.name === name ? { ...field, ...change } : field)),
  }
}

// One field has a role at a time; the key is the field that the plan names.
export function withRole(plan: ImportPlan, name: string, role: Role): ImportPlan {
  const fields = (plan.fields ?? []).map((field) => {
    if (field.name === name) return { ...field, role }
    return role !== null && field.role === role ? { ...field, role: null } : field
  })
  const key = role === 'key' ? name : plan.key === name ? null : (plan.key ?? null)
  return { ...plan, fields, key }
}

// A delimiter as a person can see it.
export const DELIMITERS: { value: string; name: string }[] = [
  { value: ',', name: 'comma ,' },
  { value: ';', name: 'semicolon ;' },
  { value: '\t', name: 'tab' },
  { value: '|', name: 'bar |' },
]

// A name that a collection may have, made of a file's.
export function collectionName(fileName: string): string {
  const stem = fileName.replace(/(\.[a-z0-9]{1,8}){1,2}$/i, '')
  const plain = stem
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9_-]+/g, '-')
    .replace(/^[-_]+|-+$/g, '')
  return plain.slice(0, 63) || 'collection'
}

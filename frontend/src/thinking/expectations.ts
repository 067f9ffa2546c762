// An expectation in words, as the server says it too.
export type Expected = { kind: string; record_key: string | null; number: number | null }

export function expectedText({ kind, record_key, number }: Expected): string {
  if (kind === 'among_first') return `${record_key} among the first ${number}`
  if (kind === 'never') return `never ${record_key}`
  return kind === 'more_than' ? `more than ${number} records` : 'nothing at all'
}

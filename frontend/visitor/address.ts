// What is asked, in the page's address, so that a link shows the same list; other words of the address stay.
import type { Asked } from './endpoint'

export const NOTHING: Asked = { query: '', chosen: {}, sort: '', page: 1, asSaid: false }
const MOST_PAGES = 1_000

export function askedIn(address: URLSearchParams): Asked {
  const chosen: Record<string, string[]> = {}
  for (const [name, value] of address)
    if (name.startsWith('is.') && name.length > 3 && value) (chosen[name.slice(3)] ??= []).push(value)
  const page = Number(address.get('page') ?? 1)
  return {
    query: address.get('q') ?? '',
    chosen,
    sort: address.get('sort') ?? '',
    page: Number.isInteger(page) && page >= 1 && page <= MOST_PAGES ? page : 1,
    asSaid: address.has('as-said'),
  }
}

export function addressOf(asked: Asked, before: URLSearchParams): URLSearchParams {
  const after = new URLSearchParams()
  for (const [name, value] of before)
    if (!['q', 'sort', 'page', 'as-said'].includes(name) && !name.startsWith('is.')) after.append(name, value)
  if (asked.query) after.set('q', asked.query)
  for (const [field, values] of Object.entries(asked.chosen))
    for (const value of values) after.append(`is.${field}`, value)
  if (asked.sort) after.set('sort', asked.sort)
  if (asked.page > 1) after.set('page', String(asked.page))
  if (asked.asSaid) after.set('as-said', '')
  return after
}

// A value that is chosen, or no longer; the list begins at its first page again.
export function toggled(asked: Asked, field: string, value: string): Asked {
  const own = asked.chosen[field] ?? []
  const values = own.includes(value) ? own.filter((one) => one !== value) : [...own, value]
  const rest = Object.fromEntries(Object.entries(asked.chosen).filter(([name]) => name !== field))
  return { ...asked, page: 1, chosen: values.length ? { ...rest, [field]: values } : rest }
}

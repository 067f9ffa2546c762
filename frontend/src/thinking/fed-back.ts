// What feedback added to a query, in a sentence.
import type { SearchAnswer } from '../api/queries'

const SHOWN = 12

// The words of all readings, those that weigh most first, each once.
export function fedBackText({ records, terms }: NonNullable<SearchAnswer['fed_back']>): string {
  if (records.length === 0) return 'No word was fed back: nothing was found by plain words.'
  if (terms.length === 0) return 'No word was fed back: the first records have none that is rare enough.'
  const weights = new Map<string, number>()
  for (const { term, weight } of terms) weights.set(term, Math.max(weights.get(term) ?? 0, weight))
  const words = [...weights].sort(([, a], [, b]) => b - a).map(([term]) => `“${term}”`)
  const more = words.length > SHOWN ? ` and ${words.length - SHOWN} more` : ''
  const from = records.length === 1 ? 'the first record' : `the first ${records.length} records`
  return `Fed back from ${from}: ${words.slice(0, SHOWN).join(' ')}${more}`
}

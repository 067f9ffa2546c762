// How figures are made: the rules for what definitions leave open, as the address carries them and in words.
import { HOW, type How } from '../api/queries'

export const CHOICES = {
  ties: {
    by_key: 'equal scores by key',
    worst_first: 'equal scores worst first',
    best_first: 'equal scores best first',
  },
  unjudged: { off_topic: 'unjudged is off topic', left_out: 'unjudged left out' },
  without_relevant: {
    zero: 'none relevant: 0',
    left_out: 'none relevant: left out',
    empty_is_right: 'none relevant: empty is right',
  },
} as const

export type Rules = Required<Pick<How, 'ties' | 'unjudged' | 'without_relevant' | 'weighted'>>

// The rules in the address are those that differ from the usual ones: `ties:best_first,weighted`.
export function parsedHow(param: string | null): Rules {
  const { ties, unjudged, without_relevant, weighted } = HOW
  const how = { ties, unjudged, without_relevant, weighted }
  for (const part of (param ?? '').split(',')) {
    const [name, value] = part.split(':')
    if (part === 'weighted') how.weighted = true
    else if (name && value && name in CHOICES && value in CHOICES[name as keyof typeof CHOICES])
      Object.assign(how, { [name]: value })
  }
  return how
}

export function howParam(how: Rules): string | null {
  const parts = (['ties', 'unjudged', 'without_relevant'] as const)
    .filter((name) => how[name] !== HOW[name])
    .map((name) => `${name}:${how[name]}`)
  if (how.weighted) parts.push('weighted')
  return parts.join(',') || null
}

// What the figures on the page were made by, in a sentence.
export function howText(how: Rules): string {
  const unjudged =
    how.unjudged === 'off_topic'
      ? 'an unjudged record counts as off topic'
      : 'unjudged records are left out of every list'
  const without = { zero: 'counts 0', left_out: 'is left out', empty_is_right: 'counts 1 if it finds nothing, else 0' }[
    how.without_relevant
  ]
  const ties = { by_key: 'by key', worst_first: 'worst first', best_first: 'best first' }[how.ties]
  return `${unjudged}; a query without a relevant record ${without}; records of equal score stand ${ties}${how.weighted ? '; a query weighs as often as it was asked' : ''}.`
}

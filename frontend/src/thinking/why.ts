// An answer to why, as words and as parts that can be compared.
import type { WhyAnswer } from '../api/queries'

import { blendText } from './blend-why'

type Term = WhyAnswer['readings'][number]['terms'][number]

// How a term came about, said after it; nothing for a plain one.
// What a reading that is no reading of the ranker's is there for: quoted words, or beginnings and endings of words.
export const howLiteral = (part: { terms: readonly { kind: string }[] }) =>
  part.terms.some((term) => term.kind === 'beginning' || term.kind === 'ending') ? 'whole words' : 'literally'

export function kindWords(term: Pick<Term, 'kind' | 'said' | 'edits'>): string {
  switch (term.kind) {
    case 'synonym':
      return ` for ${term.said}, a synonym`
    case 'spelling':
      return ` for ${term.said}, ${term.edits} ${term.edits === 1 ? 'edit' : 'edits'}`
    case 'similar':
      return ` for ${term.said}, similar`
    case 'near':
      return ' near each other'
    case 'phrase':
      return ' exactly'
    case 'feedback':
      return ' fed back'
    case 'enough':
      return ' held'
    default:
      return ''
  }
}

export type ComparedPart = { name: string; first: number; second: number; apart: number }

// The parts of two scores side by side, those that are farthest apart first. Amounts that multiply are told by what
// they come to.
export function comparedParts(first: WhyAnswer, second: WhyAnswer): ComparedPart[] {
  const one = amounts(first)
  const other = amounts(second)
  return [...new Set([...one.keys(), ...other.keys()])]
    .map((name) => ({
      name,
      first: one.get(name) ?? 0,
      second: other.get(name) ?? 0,
      apart: (one.get(name) ?? 0) - (other.get(name) ?? 0),
    }))
    .filter((part) => part.first !== 0 || part.second !== 0)
    .sort((a, b) => Math.abs(b.apart) - Math.abs(a.apart))
}

function amounts(answer: WhyAnswer): Map<string, number> {
  const found = new Map<string, number>()
  const add = (name: string, amount: number) => found.set(name, (found.get(name) ?? 0) + amount)
  if (answer.pool) for (const term of answer.pool) add(`${term.term}, pooled`, term.score)
  else {
    const parts = answer.readings.filter((part) => part.score > 0)
    const strongest = Math.max(...parts.map((part) => part.score))
    let best = answer.how === 'strongest'
    for (const part of parts) {
      const whole = answer.how !== 'strongest' || (best && part.score === strongest)
      if (whole && answer.how === 'strongest') best = false
      const name = part.number === null ? `${part.field}, ${howLiteral(part)}` : part.field
      for (const term of part.terms) add(`${name}: ${term.term}`, part.weight * term.score * (whole ? 1 : answer.share))
    }
  }
  let total = answer.keyword_score
  for (const part of answer.signals)
    if (!multiplies(part.signal)) {
      add(`signal ${part.signal.field}`, part.amount)
      total += part.amount
    }
  for (const part of answer.signals)
    if (multiplies(part.signal)) {
      add(`signal ${part.signal.field}`, total * (part.amount - 1))
      total *= part.amount
    }
  if (answer.lifts.length) add('rules', answer.score - total)
  return found
}

// Whether a signal multiplies the score; else it is added.
export const multiplies = (signal: WhyAnswer['signals'][number]['signal']) => signal.how === 'multiply'

export function plainText(title: string, answer: WhyAnswer): string {
  const lines = [`${title} (${answer.key}): ${answer.score}`]
  for (const part of answer.pool ? [] : answer.readings) {
    lines.push(`  ${part.score} = ${part.weight} × ${part.unweighted}  ${part.field}: ${part.chain}`)
    for (const term of part.terms) {
      lines.push(
        `    ${term.score}  ${term.term}${kindWords(term)}: tf ${term.frequency}, df ${term.holding} of ${part.record_count}, idf ${term.idf}, worth ${term.worth}`,
      )
    }
  }
  for (const term of answer.pool ?? []) {
    lines.push(`  ${term.score}  ${term.term}: pooled tf ${term.frequency}, df ${term.holding}, idf ${term.idf}`)
    for (const share of term.shares)
      lines.push(
        `    ${share.added} = ${share.weight} × ${share.worth} × ${share.frequency} / ${share.length_share}  ${share.field}`,
      )
  }
  for (const part of answer.signals) {
    lines.push(
      `  ${multiplies(part.signal) ? '×' : '+'} ${part.amount}  signal ${part.signal.field} (${part.signal.shape}): ${part.signal.weight} × ${part.value}`,
    )
  }
  if (answer.blend) lines.push(...blendText(answer.blend))
  for (const by of answer.lifts) lines.push(`  × ${by}  rule`)
  return lines.join('\n')
}

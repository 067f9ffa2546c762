// A chain as cards: every change of a card is a change of the notation, whose layout and comments stay.
import type { Schemas } from '../api/client'

export type Call = Schemas['CallModel']

// Stages' own text, and what stands before, between and after them.
type Pieces = { texts: string[]; gaps: string[] }

export function pieces(notation: string, calls: Call[]): Pieces {
  const letters = Array.from(notation) // offsets count code points
  const gaps: string[] = []
  let at = 0
  for (const call of calls) {
    gaps.push(letters.slice(at, call.start).join(''))
    at = call.end
  }
  gaps.push(letters.slice(at).join(''))
  return { texts: calls.map((call) => call.text), gaps }
}

function joined({ texts, gaps }: Pieces): string {
  return texts.map((text, i) => (gaps[i] ?? '') + text).join('') + (gaps[texts.length] ?? '')
}

export function moved(notation: string, calls: Call[], from: number, to: number): string {
  const { texts, gaps } = pieces(notation, calls)
  return joined({ texts: reordered(texts, from, to), gaps })
}

export function removed(notation: string, calls: Call[], place: number): string {
  const { texts, gaps } = pieces(notation, calls)
  // The ">" goes with it; the first stage takes the one after it.
  const gone = place === 0 && texts.length > 1 ? 1 : place
  return joined({ texts: texts.filter((_, i) => i !== place), gaps: gaps.filter((_, i) => i !== gone) })
}

export function replaced(notation: string, calls: Call[], place: number, text: string): string {
  const { texts, gaps } = pieces(notation, calls)
  return joined({ texts: texts.map((own, i) => (i === place ? text : own)), gaps })
}

// The cards of a notation that was just made of others': where each stands now.
export function placed(notation: string, calls: readonly Call[]): Call[] {
  const letters = Array.from(notation)
  let at = 0
  return calls.map((call) => {
    const length = Array.from(call.text).length
    while (at < letters.length && letters.slice(at, at + length).join('') !== call.text) at += 1
    const start = at
    at += length
    return { ...call, start, end: start + length }
  })
}

export function fits(notation: string, calls: readonly Call[]): boolean {
  const letters = Array.from(notation)
  return calls.every((call) => letters.slice(call.start, call.end).join('') === call.text)
}

// A notation with its saved chain written out.
export function writtenOut(notation: string, calls: Call[]): string {
  const saved = calls[0]?.saved
  return saved == null ? notation : replaced(notation, calls, 0, saved)
}

// Where a new stage belongs: text stages end before the tokenizer, of which there is one.
export function added(notation: string, calls: Call[], text: string, kind: Call['kind']): string {
  if (calls.length === 0 && notation.trim() !== '') {
    // Not known stage by stage: it goes to the end where it certainly belongs; a second tokenizer is left out.
    return kind === 'tokenizer' ? notation : kind === 'text stage' ? `${text} > ${notation}` : `${notation} > ${text}`
  }
  if (calls.length === 0)
    return kind === 'tokenizer' ? text : kind === 'text stage' ? `${text} > words` : `words > ${text}`
  const saved = calls[0]?.saved
  // A saved chain has a tokenizer, and nothing stands before it: it is written out for what would.
  if (saved != null && kind !== 'token stage')
    return kind === 'tokenizer' ? notation : `${text} > ${writtenOut(notation, calls)}`
  const tokenizer = calls.findIndex((call) => call.kind === 'tokenizer')
  if (kind === 'tokenizer' && tokenizer >= 0) return replaced(notation, calls, tokenizer, text)
  const { texts, gaps } = pieces(notation, calls)
  const firstAfter = calls.findIndex((call) => call.kind !== 'text stage')
  const place = kind === 'token stage' || firstAfter < 0 ? texts.length : firstAfter
  const newGaps = [...gaps]
  if (place === 0) newGaps.splice(1, 0, ' > ')
  else newGaps.splice(place, 0, ' > ')
  return joined({ texts: [...texts.slice(0, place), text, ...texts.slice(place)], gaps: newGaps })
}

export function reordered<T>(all: readonly T[], from: number, to: number): T[] {
  const rest = all.filter((_, i) => i !== from)
  const own = all[from]
  return own === undefined ? [...all] : [...rest.slice(0, to), own, ...rest.slice(to)]
}

// Which stages are switched off after one has moved, or gone (to is null).
export function offAfter(off: readonly number[], count: number, from: number, to: number | null): number[] {
  const states = Array.from({ length: count }, (_, i) => off.includes(i))
  const next = to === null ? states.filter((_, i) => i !== from) : reordered(states, from, to)
  return next.flatMap((is, i) => (is ? [i] : []))
}

export function offParam(off: readonly number[]): string | null {
  return off.length ? off.join(',') : null
}

export function parsedOff(param: string | null): number[] {
  return (param ?? '')
    .split(',')
    .filter((part) => /^\d{1,2}$/.test(part) && Number(part) < 64)
    .map(Number)
}

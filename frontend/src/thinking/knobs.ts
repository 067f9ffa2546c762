// What the parts of a ranker may hold, as the core declares it.
import { KNOBS } from '../api/knobs.gen'

export type PartName = keyof typeof KNOBS

export type Knob = {
  readonly kind: 'number' | 'whole' | 'maybe number' | 'maybe whole' | 'switch' | 'choice' | 'own'
  readonly words: string
  readonly says: string
  readonly least?: number
  readonly most?: number
  readonly step?: number
  readonly reach?: number
  readonly unit?: string
  readonly choices?: readonly (readonly [string, string])[]
  readonly begins?: number
  readonly where?: { readonly name: string; readonly says: readonly string[] }
  readonly start?: unknown
}

// A part of a ranker's document, whichever it is.
export type Values = Readonly<Record<string, unknown>>

export const knobsOf = (part: PartName): Readonly<Record<string, Knob>> => KNOBS[part]

export const knob = <P extends PartName>(part: P, name: keyof (typeof KNOBS)[P] & string): Knob => {
  const found = knobsOf(part)[name]
  if (!found) throw new Error(`no knob ${name} of ${part}`)
  return found
}

// The words for each choice of a knob, with the choice.
export const choicesOf = <P extends PartName>(part: P, name: keyof (typeof KNOBS)[P] & string) =>
  knob(part, name).choices ?? []

// A part as it is where nothing was said of it; what must be said is left out.
export const startOf = (part: PartName): Values =>
  Object.fromEntries(
    Object.entries(knobsOf(part))
      .filter(([, one]) => one.start !== undefined || one.kind.startsWith('maybe'))
      .map(([name, one]) => [name, one.start ?? null]),
  )

// The knobs that a part shows by themselves, in order: those of use that have no control of their own.
export function shownKnobs(part: PartName, value: Values, own: readonly string[]): [string, Knob][] {
  return Object.entries(knobsOf(part)).filter(
    ([name, one]) =>
      one.kind !== 'own' &&
      !own.includes(name) &&
      (!one.where || one.where.says.includes(String(value[one.where.name]))),
  )
}

const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1)

// How a knob is called where several parts stand on one page. of: whose it is, nothing where it goes without saying.
export const knobName = (one: Knob, of: string) => (of ? `${one.words} of ${of}` : capital(one.words))

// What a slider reaches: as declared, and always past twice what is kept.
export const reachOf = (one: Knob, was: number | undefined) =>
  Math.min(one.most ?? Infinity, Math.max(one.reach ?? one.most ?? 10, 2 * (was ?? 0)))

export const stepOf = (one: Knob) => one.step ?? ((one.most ?? 1) - (one.least ?? 0)) / 100

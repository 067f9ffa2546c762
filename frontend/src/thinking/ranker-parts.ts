// Changes of one part of a ranker document; everything else stays as it was.
import type { RankerDocument } from '../api/queries'
import { startOf } from './knobs'

export type Reading = RankerDocument['readings'][number]
export type Spelling = NonNullable<RankerDocument['spelling']>
export type Feedback = NonNullable<RankerDocument['feedback']>
export type Typing = NonNullable<RankerDocument['typing']>
export type Corrections = NonNullable<RankerDocument['corrections']>
export type Signal = NonNullable<RankerDocument['signals']>[number]
export type Rule = NonNullable<RankerDocument['rules']>[number]
export type FilterPart = NonNullable<RankerDocument['filters']>[number]
export type Need = RankerDocument['need']

export function withReading(document: RankerDocument, i: number, changes: Partial<Reading>): RankerDocument {
  return {
    ...document,
    readings: document.readings.map((reading, j) => (i === j ? { ...reading, ...changes } : reading)),
  }
}

export function replaced<T>(list: readonly T[], i: number, changes: Partial<T>): T[] {
  return list.map((one, j) => (i === j ? { ...one, ...changes } : one))
}

export const without = <T>(list: readonly T[], i: number): T[] => list.filter((_, j) => i !== j)

export const SPELLING = startOf('Spelling') as Required<Spelling>
export const FEEDBACK = { ...startOf('Feedback'), field: null } as unknown as Required<Feedback>
export const TYPING = startOf('Typing') as Required<Typing>
export const CORRECTIONS = startOf('Corrections') as Required<Corrections>
export const NEARNESS = startOf('Nearness') as Required<NonNullable<Reading['nearness']>>

export const newSignal = (field: string): Signal => ({ field, shape: 'log', ...startOf('Signal') }) as Signal

export type SpaceUse = NonNullable<RankerDocument['spaces']>[number]
export type Blend = NonNullable<RankerDocument['blend']>
export type QueryKind = NonNullable<RankerDocument['kinds']>[number]
export type SecondStage = NonNullable<RankerDocument['second_stage']>

export const BLEND = startOf('Blend') as Required<Blend>
export const SECOND_STAGE = startOf('SecondStage') as Omit<Required<SecondStage>, 'space'>

export const newSpaceUse = (space: string): SpaceUse => ({ space, ...startOf('SpaceUse') }) as SpaceUse

// Which queries are of a kind, in words.
export function kindText(when: QueryKind['when']): string {
  const said: string[] = []
  const [least, most] = [when.at_least_words, when.at_most_words]
  if (least !== null && least !== undefined) said.push(`${least} words or more`)
  if (most !== null && most !== undefined) said.push(`${most} ${most === 1 ? 'word' : 'words'} at most`)
  if (when.pattern) said.push(`/${when.pattern}/`)
  if (when.quoted === true) said.push('with quotes')
  if (when.quoted === false) said.push('without quotes')
  return said.join(', ')
}

// A kind as it is typed: "4+", "..2", "3..5", "/pattern/", "quoted"; several by commas. null where it says nothing.
export function parsedKind(text: string): QueryKind['when'] | null {
  const when: QueryKind['when'] = {}
  const pattern = /\/(.+)\//.exec(text)
  if (pattern?.[1]) when.pattern = pattern[1]
  for (const part of text.replace(/\/.+\//, '').split(',')) {
    const said = part.trim()
    const range = /^(\d{1,3})?\s*\.\.\s*(\d{1,3})?$/.exec(said)
    const more = /^(\d{1,3})\+$/.exec(said)
    if (more) when.at_least_words = Number(more[1])
    else if (range && (range[1] || range[2])) {
      if (range[1]) when.at_least_words = Number(range[1])
      if (range[2]) when.at_most_words = Number(range[2])
    } else if (said === 'quoted') when.quoted = true
    else if (said !== '') return null
  }
  return Object.keys(when).length ? when : null
}

export const NEED_CHOICES = ['any', 'all', '2', '3', '50%', '75%', 'by length'] as const
export type NeedChoice = (typeof NEED_CHOICES)[number] | 'other'

// Which choice of the list a need is; by length where it has steps.
export function needChoice(need: Need): NeedChoice {
  if (typeof need === 'object') return 'by length'
  const text = String(need)
  return (NEED_CHOICES as readonly string[]).includes(text) ? (text as NeedChoice) : 'other'
}

export function needOfChoice(choice: string): Need {
  if (choice === 'by length') return { '1': 'all', '3': '75%' }
  return /^\d+$/.test(choice) ? Number(choice) : choice
}

// Steps as they are typed: "1 all, 4 75%". null where they make no sense.
export function needSteps(text: string): Record<string, string | number> | null {
  const steps: Record<string, string | number> = {}
  for (const part of text.split(',')) {
    const found = /^\s*(\d{1,3})\s*:?\s+(any|all|\d{1,3}%?)\s*$/.exec(part)
    if (!found?.[1] || !found[2]) return null
    steps[found[1]] = /^\d+$/.test(found[2]) ? Number(found[2]) : found[2]
  }
  return steps
}

export const stepsText = (need: Need) =>
  typeof need === 'object'
    ? Object.entries(need)
        .map(([start, amount]) => `${start} ${amount}`)
        .join(', ')
    : String(need)

export const ACTIONS = ['pin', 'lift', 'hide', 'filter', 'look_in', 'weigh'] as const
export type ActionName = (typeof ACTIONS)[number]

export const ACTION_WORDS: Record<ActionName, string> = {
  pin: 'pin records to the top',
  lift: 'lift records',
  hide: 'hide records',
  filter: 'make it a filter on',
  look_in: 'look for it only in',
  weigh: 'weigh the readings of',
}

export function actionOf(rule: Rule): ActionName {
  return ACTIONS.find((name) => rule.do[name] !== null && rule.do[name] !== undefined) ?? 'pin'
}

// A rule in one line.
export function ruleText(rule: Rule): string {
  const wanted = rule.when?.query
    ? `“${rule.when.query}”`
    : (rule.when?.list ?? (rule.when?.pattern ? `/${rule.when.pattern}/` : 'every query'))
  const action = actionOf(rule)
  const target = rule.do[action]
  const by = rule.do.by !== null && rule.do.by !== undefined ? ` × ${rule.do.by}` : ''
  return `${wanted}: ${ACTION_WORDS[action]} ${Array.isArray(target) ? target.join(' ') : (target ?? '')}${by}`
}

export function filterText(filter: FilterPart): string {
  if (filter.one_of) return `${filter.field} is ${filter.one_of.join(' or ')}`
  if (filter.has !== null && filter.has !== undefined)
    return `${filter.field} ${filter.has ? 'has a value' : 'has no value'}`
  return `${filter.field} ${filter.low ? `from ${filter.low} ` : ''}${filter.high ? `to ${filter.high}` : 'on'}`.trim()
}

// A filter as it is typed: field=value, field:low..high, or the field alone.
export function parsedFilter(text: string): FilterPart | null {
  const range = /^([^=:]+):([^.]*)\.\.(.*)$/.exec(text.trim())
  if (range?.[1] && (range[2] || range[3]))
    return { field: range[1].trim(), low: range[2]?.trim() || null, high: range[3]?.trim() || null }
  const equals = /^([^=:]+)=(.+)$/.exec(text.trim())
  if (equals?.[1] && equals[2]) return { field: equals[1].trim(), one_of: [equals[2].trim()] }
  return /^[^=:\s]+$/.test(text.trim()) ? { field: text.trim(), has: true } : null
}

// A value of a facet chosen or taken back: values of one field widen its filter, other fields narrow the list.
export function toggledValue(filters: readonly FilterPart[], field: string, value: string): FilterPart[] {
  const own = filters.find((one) => one.field === field && one.one_of)
  if (!own?.one_of) return [...filters, { field, one_of: [value] }]
  const values = own.one_of.includes(value) ? own.one_of.filter((one) => one !== value) : [...own.one_of, value]
  return values.length
    ? filters.map((one) => (one === own ? { field, one_of: values } : one))
    : filters.filter((one) => one !== own)
}

export function parsedFilters(param: string | null): FilterPart[] {
  if (!param) return []
  try {
    const found: unknown = JSON.parse(param)
    if (!Array.isArray(found)) return []
    return found.filter(
      (one): one is FilterPart =>
        typeof one === 'object' && one !== null && typeof (one as FilterPart).field === 'string',
    )
  } catch {
    return []
  }
}

// What readings are known by from one turn to the next: their fields, those of the same field by their chains too, and
// by their number where even these are alike.
export function namesOfReadings(readings: readonly Reading[]): string[] {
  const seen = new Map<string, number>()
  return readings.map(({ field, chain, query_chain = null }) => {
    const several = readings.filter((one) => one.field === field).length > 1
    const name = several ? JSON.stringify([field, chain, query_chain]) : field
    const times = seen.get(name) ?? 0
    seen.set(name, times + 1)
    return times === 0 ? name : `${name} ${times}`
  })
}

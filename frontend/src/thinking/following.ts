// How a following stands, in words.
import { countText } from './figures'

export type Standing = 'in step' | 'behind' | 'reading' | 'undecided' | 'not in step' | 'paused' | 'beginning' | 'quiet'

type Stands = { standing: Standing; waiting: number; behind_s: number; done: number; title: string }

// For how long, to the closest unit that says something.
export function secondsText(seconds: number): string {
  if (seconds < 10) return `${seconds.toFixed(1)} s`
  if (seconds < 120) return `${Math.round(seconds)} s`
  if (seconds < 7_200) return `${Math.round(seconds / 60)} min`
  if (seconds < 172_800) return `${Math.round(seconds / 3_600)} h`
  return `${Math.round(seconds / 86_400)} days`
}

// The type of the column that a field is of: what is nested in a column became fields of their own.
export const writtenType = (field: string, columns: readonly { name: string; written: string }[]) =>
  columns.find((one) => `${field}.`.startsWith(`${one.name}.`))?.written

const changesText = (count: number) => `${countText(count)} ${count === 1 ? 'change' : 'changes'}`

// As the strip has it: short, and what is amiss first.
export function stripText(now: Stands): string {
  switch (now.standing) {
    case 'in step':
      return 'in step'
    case 'behind':
      return `behind by ${changesText(now.waiting)}, ${secondsText(now.behind_s)}`
    case 'reading':
      return `reading all: ${countText(now.done)} rows`
    case 'beginning':
      return 'beginning'
    case 'undecided':
      return 'waits for a word'
    case 'paused':
      return 'paused'
    case 'not in step':
      return now.behind_s > 0 ? `not in step, since ${secondsText(now.behind_s)}` : 'not in step'
    case 'quiet':
      return 'nobody follows'
  }
}

// As its view has it: a sentence.
export function standingText(now: Stands): string {
  switch (now.standing) {
    case 'in step':
      return `In step with ${now.title}.`
    case 'behind':
      return `Behind ${now.title} by ${changesText(now.waiting)}, the oldest ${secondsText(now.behind_s)} ago.`
    case 'reading':
      return `Everything of ${now.title} is being read: ${countText(now.done)} rows so far.`
    case 'beginning':
      return `Everything of ${now.title} is about to be read.`
    case 'undecided':
      return 'What was read would delete many records: it waits for somebody to decide.'
    case 'paused':
      return `Paused: what changes in ${now.title} waits there.`
    case 'not in step':
      return `Not in step with ${now.title}${now.behind_s > 0 ? `, since ${secondsText(now.behind_s)}` : ''}.`
    case 'quiet':
      return `Nobody follows ${now.title} just now. A running server does; where none runs, ./paleharbor follow catch-up does once.`
  }
}

export const isWell = (standing: Standing) =>
  standing === 'in step' || standing === 'reading' || standing === 'beginning'

// What a document says, where it was written by this page.
export type FollowingDocument = {
  connection: string
  query: string
  key: string
  way: 'asking' | 'triggers' | 'decoding'
  tables: { name: string; owners: string }[]
  changed_at: string | null
  every_s: number
  sweep_s: number
  whole_hours: number
  most_kept_mb: number
  kept_days: number
}

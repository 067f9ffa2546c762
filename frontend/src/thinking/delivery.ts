// What is said of what visitors asked and did.
import type { PastAsked, PastDay, PastOrder, Publication, Rewriting, SuggestedGrade } from '../api/delivery'

export const ORDERS: readonly (readonly [PastOrder, string])[] = [
  ['frequent', 'asked most'],
  ['rising', 'asked more than before'],
  ['nothing', 'found nothing'],
  ['given_up', 'given up: something was found, nothing clicked'],
  ['slow', 'slow'],
  ['unjudged', 'asked and not judged'],
]

// Said where there is no query of an order.
export const NONE_OF: Record<PastOrder, string> = {
  frequent: 'Nobody has asked anything in this time.',
  rising: 'Nothing is asked clearly more often in the second half of this time than in the first.',
  nothing: 'Every query of this time found something.',
  given_up: 'Something was clicked for every query of this time that found something.',
  slow: 'Nobody has asked anything in this time.',
  unjudged: 'Every query of this time is in a judged set.',
}

export const DAYS: readonly (readonly [string, string])[] = [
  ['1', 'one day'],
  ['7', 'seven days'],
  ['30', '30 days'],
  ['90', '90 days'],
]

export const calledAs = (one: Publication): string => (one.ranker === null ? 'none' : `${one.ranker} ${one.version}`)

// A share of a whole, of a few in tenths of a percent.
export function shareText(part: number, whole: number): string {
  if (whole === 0) return '–'
  const share = (100 * part) / whole
  return share > 0 && share < 10 ? `${share.toFixed(1)} %` : `${Math.round(share)} %`
}

export type DayBar = { day: string; asked: number; nothing: number; share: number }

// Every day from the first to the last, those without a query too. share: of the day that was asked most.
export function dayBars(days: readonly PastDay[]): DayBar[] {
  const known = new Map(days.map((one) => [one.day, one]))
  const [first, last] = [days[0]?.day, days.at(-1)?.day]
  if (first === undefined || last === undefined) return []
  const most = Math.max(...days.map((one) => one.asked))
  const bars: DayBar[] = []
  for (let at = Date.parse(first); at <= Date.parse(last); at += 86_400_000) {
    const day = new Date(at).toISOString().slice(0, 10)
    const one = known.get(day)
    bars.push({ day, asked: one?.asked ?? 0, nothing: one?.nothing ?? 0, share: (one?.asked ?? 0) / most })
  }
  return bars
}

const timesText = (times: number): string => (times === 1 ? 'once' : `${times} times`)

// How an order tells what it is about, beside how often a query was asked.
export function whyHere(one: PastAsked, order: PastOrder): string {
  switch (order) {
    case 'rising':
      return `${one.asked - one.later} before, ${one.later} since`
    case 'nothing':
      return `nothing ${one.nothing} of ${one.asked} times`
    case 'given_up':
      return `given up ${one.given_up} of ${one.asked} times`
    case 'slow':
      return `one of twenty took over ${Math.round(one.slow_ms ?? 0)} ms${one.cut > 0 ? `; cut short ${timesText(one.cut)}` : ''}`
    case 'frequent':
    case 'unjudged':
      return one.clicked > 0 ? `clicked ${timesText(one.clicked)}` : ''
  }
}

// How sure a suggested grade is: one grade alone, or from which to which.
export function sureText(one: SuggestedGrade): string {
  const read = `read about ${Math.round(one.appeal.read)} times, clicked ${one.appeal.clicked}`
  return one.low === one.high ? read : `${one.low} to ${one.high}; ${read}`
}

// What visitors said in one word and then in another, as the lines of a list of synonyms; the first line is its head.
export function synonymLines(rewritings: readonly Rewriting[]): string[][] {
  const pairs = rewritings.filter((one) => one.kind === 'one word for another')
  const told = new Set<string>()
  const lines = pairs.flatMap(({ before, after }) => {
    const pair = [before, after].sort().join('\n')
    if (told.has(pair)) return []
    told.add(pair)
    return [[before, after, 'both']]
  })
  return lines.length > 0 ? [['words', 'means', 'way'], ...lines] : []
}

// Where viewers, catalogues and harvesters ask. paged: whether there are pages of things, which viewers show.
export function protocolAddresses(address: string, collection: string, key: string, paged: boolean) {
  const base = `${address}/v1/${encodeURIComponent(collection)}/keys/${encodeURIComponent(key)}`
  return [
    ...(paged ? [{ name: 'Viewers of pages (IIIF)', address: `${base}/iiif/collection` }] : []),
    { name: 'Library catalogues (SRU, CQL)', address: `${base}/sru` },
    { name: 'Harvesters (OAI-PMH)', address: `${base}/oai` },
  ]
}

// The lines of a page that puts the search box into a site.
export function snippet(address: string, collection: string, key: string): string {
  return [
    `<script type="module" src="${address}/harbor-search.js"></script>`,
    `<harbor-search collection="${collection}" key="${key}"></harbor-search>`,
  ].join('\n')
}

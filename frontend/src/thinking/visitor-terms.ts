// What a visitor's key may, as a form has it and as the server keeps it.
import type { VisitorTerms } from '../api/delivery'

export type TermsForm = {
  // NAME, NAME:VERSION, or empty for what is live.
  ranker: string
  // null: every field; searched: null as shown.
  shown: string[] | null
  searched: string[] | null
  // One a line.
  origins: string
  filters: string
  perMinute: number
  perMinuteEach: number
  timeMs: number
  keeps: boolean
}

export const NEW_TERMS: TermsForm = {
  ranker: '',
  shown: null,
  searched: null,
  origins: '',
  filters: '',
  perMinute: 6_000,
  perMinuteEach: 600,
  timeMs: 1_000,
  keeps: true,
}

const strings = (value: unknown): string[] | null => (Array.isArray(value) ? value.map(String) : null)

// kept: as it came from the server, without whatever is as it would be anyway.
export function formOf(kept: Record<string, unknown>): TermsForm {
  const number = (value: unknown, usual: number) => (typeof value === 'number' ? value : usual)
  const version = typeof kept.version === 'number' ? `:${kept.version}` : ''
  return {
    ranker: typeof kept.ranker === 'string' ? `${kept.ranker}${version}` : '',
    shown: strings(kept.shown),
    searched: strings(kept.searched),
    origins: (strings(kept.origins) ?? []).join('\n'),
    filters: Array.isArray(kept.filters) ? JSON.stringify(kept.filters, null, 2) : '',
    perMinute: number(kept.per_minute, NEW_TERMS.perMinute),
    perMinuteEach: number(kept.per_minute_each, NEW_TERMS.perMinuteEach),
    timeMs: number(kept.time_ms, NEW_TERMS.timeMs),
    keeps: kept.keeps !== false,
  }
}

// Throws a SyntaxError where the filters are no JSON.
export function termsOf(form: TermsForm): VisitorTerms {
  const [ranker = '', version] = form.ranker.split(':')
  return {
    ranker: ranker || null,
    version: version ? Number(version) : null,
    shown: form.shown,
    searched: form.searched,
    filters: form.filters.trim() ? (JSON.parse(form.filters) as VisitorTerms['filters']) : [],
    origins: form.origins.split(/[\s,]+/).filter(Boolean),
    per_minute: form.perMinute,
    per_minute_each: form.perMinuteEach,
    time_ms: form.timeMs,
    keeps: form.keeps,
  }
}

// A field that is chosen, or no longer, of all that there are; every field is null.
export function toggledField(chosen: string[] | null, all: readonly string[], field: string): string[] | null {
  const before = chosen ?? [...all]
  const after = before.includes(field)
    ? before.filter((one) => one !== field)
    : all.filter((one) => one === field || before.includes(one))
  return after.length === all.length ? null : after
}

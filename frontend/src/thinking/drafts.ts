// Which kept draft the one in view is, and which are offered again.
import type { KeptDraft } from '../api/drafts'

type Standing = { ranker: string; version: number; document: unknown }

// The document as it is compared: the server gives its fields in an order of its own.
export function sameDocument(a: unknown, b: unknown): boolean {
  return inOrder(a) === inOrder(b)
}

const inOrder = (value: unknown): string =>
  JSON.stringify(value, (_, part: unknown) =>
    typeof part === 'object' && part !== null && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([a], [b]) => (a < b ? -1 : 1)))
      : part,
  )

export function keptAs(drafts: readonly KeptDraft[], draft: Standing): KeptDraft | undefined {
  return drafts.find(
    (one) => one.ranker === draft.ranker && one.version === draft.version && sameDocument(one.document, draft.document),
  )
}

// Offered while nothing is being edited: what was left, the latest first, without those put off.
export function offered(drafts: readonly KeptDraft[], isBaseline: boolean, putOff: readonly number[]): KeptDraft[] {
  return isBaseline ? drafts.filter((one) => !putOff.includes(one.id)) : []
}

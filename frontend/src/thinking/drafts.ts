// Which kept draft the one in view is, and which are offered again.
import type { KeptDraft } from '../api/drafts'
import { same } from './same'

type Standing = { ranker: string; version: number; document: unknown }

export function keptAs(drafts: readonly KeptDraft[], draft: Standing): KeptDraft | undefined {
  return drafts.find(
    (one) => one.ranker === draft.ranker && one.version === draft.version && same(one.document, draft.document),
  )
}

// Offered while nothing is being edited: what was left, the latest first, without those put off.
export function offered(drafts: readonly KeptDraft[], isBaseline: boolean, putOff: readonly number[]): KeptDraft[] {
  return isBaseline ? drafts.filter((one) => !putOff.includes(one.id)) : []
}

// What a judge said and the server has not acknowledged yet. It lives in the browser's own storage, so that neither a
// lost connection nor a closed page loses it; the server keeps what comes twice once.
import type { Said } from '../api/judging'

export const pairOf = (one: { query_id: string; record_key: string }) => `${one.query_id}\n${one.record_key}`

// The last word about a record is the one that is sent.
export function put(box: readonly Said[], said: Said): Said[] {
  return [...box.filter((one) => pairOf(one) !== pairOf(said)), said]
}

// What was said again while the sending was under way stays.
export function acknowledged(box: readonly Said[], sent: readonly Said[]): Said[] {
  const gone = new Set(sent.map((one) => `${pairOf(one)}\n${one.at}`))
  return box.filter((one) => !gone.has(`${pairOf(one)}\n${one.at}`))
}

export function parsedBox(text: string | null): Said[] {
  try {
    const found: unknown = JSON.parse(text ?? '[]')
    return Array.isArray(found) ? found.filter(isSaid) : []
  } catch {
    return []
  }
}

function isSaid(value: unknown): value is Said {
  return typeof value === 'object' && value !== null && 'query_id' in value && 'record_key' in value && 'at' in value && 'grade' in value
}

// A moment later than the one before: two words about one record within a millisecond keep their order.
export function momentAfter(last: string | null, now: Date): string {
  const before = last === null ? 0 : Date.parse(last)
  return new Date(Math.max(now.getTime(), before + 1)).toISOString()
}

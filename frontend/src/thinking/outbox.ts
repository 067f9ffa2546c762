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

// The box in the browser's storage, which all tabs of a judge share: what another tab put there is kept too. Where the
// storage takes nothing (private windows, no room left) the box lives as long as its page, and says so.
export class Outbox {
  private own: Said[] = []
  private order = 0
  private readonly device: string
  stored = true
  constructor(
    private readonly storage: Pick<Storage, 'getItem' | 'setItem'>,
    private readonly name: string,
    device: () => string = () => Math.random().toString(36).slice(2),
  ) {
    this.device = this.kept('device') ?? device()
    this.keep('device', this.device)
  }

  // A word with this device's name and count, by which the server tells what it said before.
  numbered<T extends object>(said: T): T & { device: string; order: number } {
    this.order = Math.max(this.order, Number(this.kept('order')) || 0) + 1
    this.keep('order', String(this.order))
    return { ...said, device: this.device, order: this.order }
  }

  private kept(what: string): string | null {
    try {
      return this.storage.getItem(`${this.name}.${what}`)
    } catch {
      return null
    }
  }

  private keep(what: string, text: string) {
    try {
      this.storage.setItem(`${this.name}.${what}`, text)
    } catch {
      // It lives as long as its page, and is another device after that.
    }
  }

  waiting(): Said[] {
    if (!this.stored) return this.own
    try {
      return parsedBox(this.storage.getItem(this.name))
    } catch {
      this.stored = false
      return this.own
    }
  }

  change(how: (box: readonly Said[]) => Said[]): Said[] {
    this.own = how(this.waiting())
    try {
      this.storage.setItem(this.name, JSON.stringify(this.own))
      this.stored = true
    } catch {
      this.stored = false
    }
    return this.own
  }
}

function isSaid(value: unknown): value is Said {
  return (
    typeof value === 'object' &&
    value !== null &&
    'query_id' in value &&
    'record_key' in value &&
    'at' in value &&
    'grade' in value
  )
}

// A moment later than all before: two words about one record keep their order, within a millisecond and by another
// device's clock.
export function momentAfter(before: readonly (string | null)[], now: Date): string {
  const earlier = before.map((one) => (one === null ? 0 : Date.parse(one) + 1))
  return new Date(Math.max(now.getTime(), ...earlier)).toISOString()
}

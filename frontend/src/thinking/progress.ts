// How far an import is, in words: rate and time left from what was read so far.
import type { Import, Outlook } from '../api/records'
import { countText } from './figures'

export type Progress = { share: number | null; rate: string; left: string }

export function progressOf(now: Import): Progress {
  const share = now.bytes_in_all > 0 ? Math.min(1, now.bytes_read / now.bytes_in_all) : null
  if (now.seconds <= 0 || now.rows_read === 0) return { share, rate: '', left: '' }
  const rate = `${countText(Math.round(now.rows_read / now.seconds))} rows a second`
  if (share === null || share === 0 || now.phase !== 'reading') return { share, rate, left: '' }
  return { share, rate, left: `${durationText((now.seconds * (1 - share)) / share)} left` }
}

export function durationText(seconds: number): string {
  if (seconds < 1) return 'less than a second'
  if (seconds < 90) return `${Math.round(seconds)} s`
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`
  return `${(seconds / 3600).toFixed(1)} h`
}

// What became of the rows, in one sentence.
export function reportText(report: Record<string, number>): string {
  const parts = ['added', 'updated', 'unchanged', 'deleted', 'rejected']
    .filter((name) => (report[name] ?? 0) > 0)
    .map((name) => `${countText(report[name] ?? 0)} ${name}`)
  return `${countText(report['read'] ?? 0)} rows read: ${parts.join(', ') || 'nothing to change'}.`
}

// What an import would do, in one line, and what it would take away, in another.
export function outlookText(outlook: Outlook): string {
  const counts: [number, string][] = [
    [outlook.added, 'new'],
    [outlook.updated, 'changed'],
    [outlook.unchanged, 'unchanged'],
    [outlook.deleted, 'deleted'],
  ]
  const parts = counts.filter(([count]) => count > 0).map(([count, name]) => `${countText(count)} ${name}`)
  return parts.join(', ') || 'nothing to change'
}

export function emptiedText(outlook: Outlook): string {
  const fields = Object.entries(outlook.emptied)
  if (fields.length === 0) return ''
  return `Values go from ${fields.map(([name, count]) => `${name} (${countText(count)})`).join(', ')}.`
}

// Where so many go, their number is asked for.
export const deletesMany = (outlook: Outlook) => 10 * outlook.deleted > outlook.records

export function undoneText({ restored, removed, kept }: NonNullable<Import['undone']>): string {
  const parts = [restored > 0 && `${countText(restored)} restored`, removed > 0 && `${countText(removed)} removed`]
  const rest = kept > 0 ? `; ${countText(kept)} were changed or deleted since, and stay as they are` : ''
  return `${parts.filter(Boolean).join(', ') || 'nothing restored'}${rest}.`
}

export const STATE_WORDS: Record<Import['state'], string> = {
  waiting: 'waiting',
  running: 'running',
  undecided: 'waits for your word',
  done: 'done',
  failed: 'not done',
  cancelled: 'cancelled',
}

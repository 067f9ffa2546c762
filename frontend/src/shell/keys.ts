// Keys of the page. A place adds its own while it is open.
import { useEffect } from 'react'

export type Key = { keys: string; does: string }

export const PAGE_KEYS: Key[] = [
  { keys: '/', does: 'to the query' },
  { keys: 'g d', does: 'to Records' },
  { keys: 'g r', does: 'to Ranking' },
  { keys: 'g c', does: 'to Chains' },
  { keys: 'g s', does: 'to Spaces' },
  { keys: 'g j', does: 'to Judging' },
  { keys: 'g m', does: 'to Measures' },
  { keys: 't', does: 'day or night' },
  { keys: '?', does: 'these keys' },
]

// Whether keys belong to what the focus is in.
export function typing(event: KeyboardEvent): boolean {
  const at = event.target
  if (!(at instanceof HTMLElement)) return false
  if (at instanceof HTMLInputElement) return at.type !== 'range' && at.type !== 'checkbox'
  return at.isContentEditable || at instanceof HTMLTextAreaElement || at instanceof HTMLSelectElement
}

export function useKeys(handle: (event: KeyboardEvent) => void) {
  useEffect(() => {
    const listen = (event: KeyboardEvent) => handle(event)
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [handle])
}

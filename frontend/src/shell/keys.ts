// Keys of the page. A place adds its own while it is open.
import { useEffect, useEffectEvent } from 'react'

export type Key = { keys: string; does: string }

// Whether keys belong to what the focus is in.
export function typing(event: KeyboardEvent): boolean {
  const at = event.target
  // What is under an open dialog does nothing.
  if (document.querySelector('dialog[open]')) return true
  if (!(at instanceof HTMLElement)) return false
  if (at instanceof HTMLInputElement) return at.type !== 'range' && at.type !== 'checkbox'
  return at.isContentEditable || at instanceof HTMLTextAreaElement || at instanceof HTMLSelectElement
}

// What a key does is read when it is pressed: the handler need not stay the same from render to render.
export function useKeys(handle: (event: KeyboardEvent) => void) {
  const handleNow = useEffectEvent(handle)
  useEffect(() => {
    const listen = (event: KeyboardEvent) => handleNow(event)
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
}

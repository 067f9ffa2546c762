// Keys of the page. A place adds its own while it is open.
import { useEffectEvent, useLayoutEffect } from 'react'

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

// What a key does is read when it is pressed: the handler need not stay the same from render to render. It is heard
// from the moment the place is shown: an effect after the paint would miss a key pressed at once.
export function useKeys(handle: (event: KeyboardEvent) => void) {
  const handleNow = useEffectEvent(handle)
  useLayoutEffect(() => {
    const listen = (event: KeyboardEvent) => handleNow(event)
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
}

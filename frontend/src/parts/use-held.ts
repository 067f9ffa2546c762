// What is typed into a form stays while its tab is left, until it is kept or taken back: state outside of components.
// It stays in memory alone, since passwords may be among it.
import { useCallback, useSyncExternalStore } from 'react'

const held = new Map<string, unknown>()
const listeners = new Set<() => void>()

function subscribe(listener: () => void) {
  listeners.add(listener)
  return () => {
    listeners.delete(listener)
  }
}

function tell() {
  for (const listener of listeners) listener()
}

// Like useState, but that `initial` is what stands there until something else is put.
// name: of the form with what it is about, a stroke, and what is held: `query shop/visitors/q1/text`.
export function useHeld<T>(name: string, initial: T): [T, (next: T | ((now: T) => T)) => void] {
  const kept = useSyncExternalStore(subscribe, () => held.get(name))
  const asText = JSON.stringify(initial)
  const put = useCallback(
    (next: T | ((now: T) => T)) => {
      const now = (held.has(name) ? held.get(name) : JSON.parse(asText)) as T
      const value = typeof next === 'function' ? (next as (now: T) => T)(now) : next
      if (JSON.stringify(value) === asText) held.delete(name)
      else held.set(name, value)
      tell()
    },
    [name, asText],
  )
  return [kept === undefined ? initial : (kept as T), put]
}

// Lets go of all that a form holds, once it is kept or taken back. form: the beginning of its names.
export function letGo(form: string) {
  for (const name of held.keys()) if (name.startsWith(form)) held.delete(name)
  tell()
}

// The address of the page carries what a colleague should see when sent the link.
import { useCallback } from 'react'
import { useSearchParams } from 'react-router'

export type Changes = Record<string, string | null>

// What follows the engineer from place to place.
export const CARRIED = ['q', 'd', 'ranker', 'set', 'rules', 'by']

export function useAddress() {
  const [params, setParams] = useSearchParams()
  const change = useCallback(
    (changes: Changes, replace = true) => {
      // From the window, which is never a render behind: two changes in a row must both count.
      const next = new URLSearchParams(window.location.search)
      for (const [name, value] of Object.entries(changes)) {
        if (value === null) next.delete(name)
        else next.set(name, value)
      }
      setParams(next, { replace })
    },
    [setParams],
  )
  return { params, change }
}

export function carried(params: URLSearchParams, more: Record<string, string> = {}): string {
  const kept = new URLSearchParams()
  for (const name of CARRIED) {
    const value = params.get(name)
    if (value !== null) kept.set(name, value)
  }
  for (const [name, value] of Object.entries(more)) kept.set(name, value)
  const text = kept.toString()
  return text ? `?${text}` : ''
}

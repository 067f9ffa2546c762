// Left and right go from one button of a row to the next, Home and End to the first and the last, and press it.
import type { KeyboardEvent } from 'react'

export function pressByArrow(event: KeyboardEvent<HTMLElement>) {
  const buttons = [...event.currentTarget.querySelectorAll<HTMLElement>(':scope > button, :scope > [role=tab]')]
  const at = buttons.findIndex((button) => button === event.target)
  if (at < 0 || event.ctrlKey || event.metaKey || event.altKey) return
  const to = { ArrowLeft: at - 1, ArrowRight: at + 1, Home: 0, End: buttons.length - 1 }[event.key]
  if (to === undefined) return
  event.preventDefault()
  const next = buttons[(to + buttons.length) % buttons.length]
  next?.focus()
  next?.click()
}

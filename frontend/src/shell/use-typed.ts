// What is typed into a box that is not acted on at every key, until what it stands for changes.
import { useState } from 'react'

export function useTyped(value: string): [string, (text: string) => void] {
  const [typed, setTyped] = useState({ text: value, of: value })
  // Another value from outside, a link followed say, takes the place of what was typed.
  const now = typed.of === value ? typed.text : value
  return [now, (text) => setTyped({ text, of: value })]
}

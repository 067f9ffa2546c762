// A value as it was when it last stood still for a while: what is costly waits for a pause in the typing.
import { useEffect, useState } from 'react'

export function usePaused<T>(value: T, pauseMs: number): T {
  const [paused, setPaused] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => setPaused(value), pauseMs)
    return () => clearTimeout(timer)
  }, [value, pauseMs])
  return paused
}

// Whether something has been going on for a while: what is over in a moment is not worth a word.
import { useEffect, useState } from 'react'

export function useLasting(isOn: boolean, ms: number): boolean {
  const [lasts, setLasts] = useState(false)
  useEffect(() => {
    if (!isOn) return
    const timer = setTimeout(() => setLasts(true), ms)
    return () => {
      clearTimeout(timer)
      setLasts(false)
    }
  }, [isOn, ms])
  return isOn && lasts
}

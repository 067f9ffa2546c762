// A row that changed its place moves there from its old one, so that the eye can follow it.
import { useLayoutEffect, useRef, type RefObject } from 'react'

const MOVE_MS = 180

export function useRowsMoving(list: RefObject<HTMLElement | null>, order: string) {
  const tops = useRef(new Map<string, number>())
  useLayoutEffect(() => {
    const rows = list.current?.querySelectorAll<HTMLElement>('[data-row]') ?? []
    const still = matchMedia('(prefers-reduced-motion: reduce)').matches
    const next = new Map<string, number>()
    for (const row of rows) {
      const key = row.dataset.row ?? ''
      next.set(key, row.offsetTop)
      const moved = (tops.current.get(key) ?? row.offsetTop) - row.offsetTop
      if (moved !== 0 && !still) {
        row.animate([{ transform: `translateY(${moved}px)` }, { transform: 'none' }], {
          duration: MOVE_MS,
          easing: 'ease-out',
        })
      }
    }
    tops.current = next
  }, [list, order])
}

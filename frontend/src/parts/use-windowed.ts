// Of thousands of rows only those around the window are there, with room above and below for the others. They stand in
// something that scrolls by itself (`long-table`), at every width.
import { useVirtualizer } from '@tanstack/react-virtual'
import { useLayoutEffect, useRef, useState } from 'react'

// So many rows are no trouble.
const FEW = 300
const AROUND = 30

// height: of a row, about. Gives the first row that is there, the one after the last, and the room before and after.
export function useWindowed<Body extends HTMLElement>(count: number, height: number) {
  const body = useRef<Body>(null)
  const [above, setAbove] = useState(0)
  const [size, setSize] = useState(height)
  const isLong = count > FEW
  // This hook keeps what it knows outside of what React sees change; nothing of it is remembered between renders here.
  // eslint-disable-next-line react-hooks/incompatible-library
  const rows = useVirtualizer({
    ...{ count, estimateSize: () => size, overscan: AROUND, scrollMargin: above, enabled: isLong },
    getScrollElement: () => scroller(body.current),
  })
  // How far down the rows begin in what scrolls, and how high they are: all as high as the first.
  useLayoutEffect(() => {
    const from = scroller(body.current)
    if (!body.current || !from || !isLong) return
    setSize(body.current.querySelector<HTMLElement>(':scope > :not([aria-hidden])')?.offsetHeight || height)
    setAbove(Math.round(body.current.getBoundingClientRect().top - from.getBoundingClientRect().top + from.scrollTop))
  }, [isLong, count, height])
  const seen = isLong ? rows.getVirtualItems() : []
  const [first, last] = [seen[0]?.index ?? 0, seen.at(-1)?.index ?? Math.min(count, FEW) - 1]
  return {
    ...{ body, first, end: last + 1 },
    before: first * size,
    after: (count - last - 1) * size,
    scrollTo: (row: number) => isLong && rows.scrollToIndex(row),
  }
}

function scroller(from: HTMLElement | null): HTMLElement | null {
  return from?.closest<HTMLElement>('.long-table') ?? null
}

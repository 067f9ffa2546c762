// Of thousands of rows only those around the window are there, with room above and below for the others. Where panes stand
// side by side a pane scrolls, where there is no room for them the page does.
import { useVirtualizer, useWindowVirtualizer } from '@tanstack/react-virtual'
import { useLayoutEffect, useRef, useState, useSyncExternalStore } from 'react'

// So many rows are no trouble.
const FEW = 300
const AROUND = 30
const NARROW = '(width < 900px)'

function onWidth(changed: () => void) {
  const query = matchMedia(NARROW)
  query.addEventListener('change', changed)
  return () => query.removeEventListener('change', changed)
}

// height: of a row, about. Gives the first row that is there, the one after the last, and the room before and after.
export function useWindowed<Body extends HTMLElement>(count: number, height: number, few = FEW) {
  const body = useRef<Body>(null)
  const isNarrow = useSyncExternalStore(onWidth, () => matchMedia(NARROW).matches)
  const [above, setAbove] = useState(0)
  const [size, setSize] = useState(height)
  const isLong = count > few
  const common = { count, estimateSize: () => size, overscan: AROUND, scrollMargin: above }
  // These hooks keep what they know outside of what React sees change; nothing here is remembered between renders.
  // eslint-disable-next-line react-hooks/incompatible-library
  const pane = useVirtualizer({
    ...common,
    enabled: isLong && !isNarrow,
    getScrollElement: () => scroller(body.current),
  })
  const page = useWindowVirtualizer({ ...common, enabled: isLong && isNarrow })
  const rows = isNarrow ? page : pane
  // How far down the rows begin in what scrolls.
  useLayoutEffect(() => {
    if (!body.current || !isLong) return
    // All rows are as high as the first.
    setSize(body.current.querySelector<HTMLElement>(':scope > :not([aria-hidden])')?.offsetHeight || height)
    const from = isNarrow ? document.documentElement : scroller(body.current)
    const top = body.current.getBoundingClientRect().top - (from?.getBoundingClientRect().top ?? 0)
    setAbove(Math.round(top + (isNarrow ? 0 : (from?.scrollTop ?? 0))))
  }, [isLong, isNarrow, count, height])
  const seen = isLong ? rows.getVirtualItems() : []
  const [first, last] = [seen[0]?.index ?? 0, seen.at(-1)?.index ?? (isLong ? Math.min(count, few) - 1 : count - 1)]
  return {
    ...{ body, first, end: last + 1 },
    before: first * size,
    after: (count - last - 1) * size,
    scrollTo: (row: number) => isLong && rows.scrollToIndex(row),
  }
}

function scroller(from: HTMLElement | null): HTMLElement | null {
  for (let at = from?.parentElement ?? null; at; at = at.parentElement)
    if (/auto|scroll/.test(getComputedStyle(at).overflowY)) return at
  return null
}

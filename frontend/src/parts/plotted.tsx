// A plot by the plotting package, in our own colours and type; its script is fetched when there is something to plot.
import type { PlotOptions, RenderFunction } from '@observablehq/plot'
import { useEffect, useRef, useState } from 'react'

export type Plotter = typeof import('./plotting')

const TYPE = { overflow: 'visible', fontFamily: 'inherit', fontSize: '12px' }

let fetched: Plotter | null = null

// make: what is plotted, the same as long as what is plotted is; what: in words, for whoever does not see it.
export function Plotted(props: {
  make: (plotter: Plotter) => PlotOptions
  what: string
  width: number
  height: number
}) {
  const { make, width, height } = props
  const [plotter, setPlotter] = useState(() => fetched)
  const box = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (plotter) return
    let wanted = true
    void import('./plotting').then((found) => {
      fetched = found
      if (wanted) setPlotter(() => found)
    })
    return () => {
      wanted = false
    }
  }, [plotter])
  useEffect(() => {
    if (!plotter) return
    const plot = plotter.plot({ width, height, style: TYPE, ...make(plotter) })
    // What it says of itself stands in our own style sheet: no style stands in the page.
    plot.querySelectorAll('style').forEach((one) => one.remove())
    // The whole is one picture to whoever does not see it.
    plot.setAttribute('aria-hidden', 'true')
    box.current?.replaceChildren(plot)
  }, [plotter, make, width, height])
  return (
    <div
      ref={box}
      role="img"
      aria-label={props.what}
      className="plotted max-w-full"
      style={{ width, aspectRatio: `${width} / ${height}` }}
    />
  )
}

// A way to draw marks that are pressed and pointed at: each is given the datum that it stands for.
export function pressed<T>(data: readonly T[], deeds: { onPress?: (one: T) => void; onOver?: (one: T) => void }) {
  const render: RenderFunction = (index, scales, values, dimensions, context, next) => {
    const group = next?.(index, scales, values, dimensions, context) ?? null
    Array.from(group?.children ?? []).forEach((mark, i) => {
      const one = data[index[i] ?? -1]
      if (one === undefined) return
      if (deeds.onPress) mark.addEventListener('click', () => deeds.onPress?.(one))
      if (deeds.onOver) mark.addEventListener('pointerenter', () => deeds.onOver?.(one))
      if (mark instanceof SVGElement) mark.style.cursor = 'pointer'
    })
    return group
  }
  return render
}

// While a tuning runs: how the best so far rose, and what it turns.
import { useCallback } from 'react'
import type { Tuning } from '../../api/tuning'
import { Plotted, type Plotter } from '../../parts/plotted'
import { measureText } from '../../thinking/figures'

export function BestSoFar({ tuning }: { tuning: Tuning }) {
  const { found, tried } = tuning
  const make = useCallback(
    ({ line, ruleY }: Plotter) => {
      const steps = [...found.map(([at, mean]) => ({ at, mean })), { at: tried, mean: found.at(-1)?.[1] ?? 0 }]
      return {
        ...{ marginLeft: 48, marginRight: 12, marginTop: 24, marginBottom: 36 },
        x: { label: 'settings tried', labelArrow: 'none' as const, domain: [0, Math.max(10, tried)], ticks: 5 },
        y: { label: 'best so far', labelArrow: 'none' as const, ticks: 4 },
        marks: [
          line(steps, { x: 'at', y: 'mean', curve: 'step-after', stroke: 'var(--gain)', strokeWidth: 2 }),
          ruleY([found[0]?.[1] ?? 0], { stroke: 'currentColor', strokeOpacity: 0.4, strokeDasharray: '3 3' }),
        ],
      }
    },
    [found, tried],
  )
  const [first, last] = [found[0]?.[1], found.at(-1)?.[1]]
  return (
    <>
      <Plotted
        make={make}
        what={`From ${measureText(first)} to ${measureText(last)} after ${tried} settings`}
        width={560}
        height={200}
      />
      <p className="small wrap-anywhere">{tuning.best.length === 0 ? 'As it stands.' : tuning.best.join('; ')}</p>
      <p className="quiet small">
        On the queries that it is tuned on: how much of it holds is known when every fold was held out once.
      </p>
    </>
  )
}

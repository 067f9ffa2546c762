// How a field's values are spread: bars, with axes where there is room.
import { useCallback, useMemo } from 'react'
import type { FieldProfile } from '../../api/records'
import { Plotted, type Plotter } from '../../parts/plotted'
import { countText } from '../../thinking/figures'
import { distribution, numberText, onLine, spreadText, type Spread } from '../../thinking/profile'

// small: in a row of a table, without axes.
export function Distribution({ field, small = false }: { field: FieldProfile; small?: boolean }) {
  const spread = useMemo(() => distribution(field), [field])
  const make = useCallback(
    (plotter: Plotter) => (spread === null ? {} : histogram(plotter, spread, small)),
    [spread, small],
  )
  if (spread === null) return null
  const what = `${spread.unit || 'values'} of ${field.name}: ${spreadText(spread)}`
  return <Plotted make={make} what={what} width={small ? 88 : 388} height={small ? 30 : 120} />
}

function histogram({ rectY, ruleY, axisX, axisY }: Plotter, spread: Spread, small: boolean) {
  const { bars, ticks, type } = onLine(spread)
  const bounds = ticks?.map((tick) => tick.at)
  const textOf = (at: number) => ticks?.find((tick) => tick.at === at)?.text ?? numberText(at)
  const marks = [
    rectY(bars, {
      ...{ x1: 'from', x2: 'to', y: 'count', title: 'title' },
      fill: 'var(--color-secondary)',
      insetRight: 1,
    }),
    ruleY([0], { stroke: 'var(--line)' }),
  ]
  if (small) return { margin: 0, marginBottom: 1, x: { type, axis: null }, y: { axis: null }, marks }
  const plain = { tickSize: 3, labelArrow: 'none' as const }
  return {
    ...{ marginLeft: 46, marginRight: 12, marginTop: 22, marginBottom: 34 },
    x: { type, label: spread.unit || null },
    y: { label: 'values' },
    marks: [
      bounds ? axisX(bounds, { ...plain, text: textOf }) : axisX({ ...plain, ticks: 5, tickFormat: numberText }),
      axisY({ ...plain, ticks: 3, tickFormat: (count: number) => countText(count) }),
      ...marks,
    ],
  }
}

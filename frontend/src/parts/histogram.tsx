// A small distribution: one bar for each bin, its bounds and count on hovering.
import { bars, type Bin } from '../thinking/profile'

export function Histogram(props: { bins: readonly Bin[]; unit: string; what: string; width: number; height: number }) {
  const { width, height } = props
  return (
    <svg width={width} height={height} role="img" aria-label={props.what} className="text-secondary">
      <line x1="0" x2={width} y1={height - 0.5} y2={height - 0.5} stroke="var(--line)" />
      {bars(props.bins, props.unit, width, height - 1).map((bar) => (
        <rect
          key={bar.x}
          x={bar.x}
          y={height - 1 - bar.height}
          width={bar.width}
          height={bar.height}
          fill="currentColor"
        >
          <title>{bar.title}</title>
        </rect>
      ))}
    </svg>
  )
}

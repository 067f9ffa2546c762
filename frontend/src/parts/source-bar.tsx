// Where a score came from: one thin bar, a shade for each reading, in the readings' order.
import { scoreText } from '../thinking/figures'

// Keyword readings share one hue, from dark to light; a rule between them keeps them apart.
export const readingShade = (reading: number) =>
  `color-mix(in oklab, var(--color-secondary) ${Math.max(36, 100 - 21 * reading)}%, var(--color-base-100))`

export function SourceBar(props: { parts: { reading: number; name: string; score: number }[]; longest: number }) {
  const shown = props.parts.filter((part) => part.score > 0)
  const words = shown.map((part) => `${part.name} ${scoreText(part.score)}`).join(', ')
  return (
    <div role="img" aria-label={`From ${words || 'nothing'}`} title={words} className="flex h-[7px] w-full bg-base-200">
      {shown.map((part) => (
        <span
          key={part.reading}
          className="border-r border-base-100"
          style={{ width: `${(100 * part.score) / (props.longest || 1)}%`, background: readingShade(part.reading) }}
        />
      ))}
    </div>
  )
}

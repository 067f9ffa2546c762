// Where a score came from: one thin bar, a shade for each reading in the readings' order, hatched for signals.
import type { SearchAnswer } from '../api/queries'
import { deltaText, scoreText } from '../thinking/figures'

export type Source = SearchAnswer['sources'][number]

// Keyword readings share one hue: four shades from dark to light, then the same four with bars lying across, so that
// eight are told apart. A rule between them keeps neighbours apart.
export function readingShade(reading: number): string {
  const shade = `color-mix(in oklab, var(--color-secondary) ${100 - 21 * (reading % 4)}%, var(--color-base-100))`
  return reading % 8 < 4 ? shade : `repeating-linear-gradient(0deg, ${shade} 0 2px, var(--color-base-100) 2px 4px)`
}

// Spaces have a hue of their own, and stripes, so that they are told apart without colour too.
export const spaceShade = (space: number) =>
  `repeating-linear-gradient(90deg, var(--meaning) 0 ${4 - Math.min(3, space)}px, color-mix(in oklab, var(--meaning) 40%, var(--color-base-100)) ${4 - Math.min(3, space)}px 5px)`

// Signals and rules are hatched: told apart from readings without colour too.
export function sourceShade(source: Pick<Source, 'kind' | 'number'>): string {
  if (source.kind === 'reading') return readingShade(source.number)
  if (source.kind === 'words') return readingShade(0)
  if (source.kind === 'space') return spaceShade(source.number)
  if (source.kind === 'formula') return 'var(--color-base-content)'
  if (source.kind === 'literal') return 'var(--color-base-content)'
  const step = source.kind === 'rule' ? 2 : 3
  return `repeating-linear-gradient(135deg, var(--color-base-content) 0 1px, transparent 1px ${step + 1}px)`
}

export function SourceBar(props: { sources: readonly Source[]; scores: readonly number[]; longest: number }) {
  const parts = props.sources.map((source, i) => ({ source, score: props.scores[i] ?? 0 }))
  const shown = parts.filter((part) => part.score > 0)
  const lowered = parts.filter((part) => part.score < 0)
  const words = [
    ...shown.map((part) => `${part.source.name} ${scoreText(part.score)}`),
    ...lowered.map((part) => `${part.source.name} ${deltaText(part.score)}`),
  ].join(', ')
  const total = shown.reduce((sum, part) => sum + part.score, 0)
  return (
    <div
      role="img"
      aria-label={`From ${words || 'nothing'}`}
      title={words}
      className="flex h-[7px] w-full overflow-hidden bg-base-200"
    >
      {shown.map((part) => (
        <span
          key={part.source.kind + part.source.number}
          className="border-r border-base-100"
          style={{
            width: `${(100 * part.score) / (Math.max(props.longest, total) || 1)}%`,
            background: sourceShade(part.source),
          }}
        />
      ))}
    </div>
  )
}

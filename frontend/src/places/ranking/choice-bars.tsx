// The choices of a knob as bars: the judged quality by each, everything else held still. A click chooses.
import type { RankerDocument } from '../../api/queries'
import { barsOf } from '../../thinking/curve'
import { measureText, MEASURE_NAMES } from '../../thinking/figures'
import { useCurves, useTurns } from './curves'

const HEIGHT = 20

type Props<T> = {
  name: string
  value: T
  choices: readonly (readonly [T, string])[]
  put: (value: T) => RankerDocument
  onChoose: (value: T) => void
  // What is said of the means beside the bars.
  says?: (means: number[]) => string
}

export function ChoiceBars<T extends string>({ name, value, choices, put, onChoose, says }: Props<T>) {
  const { measure, queue } = useCurves()
  const { turned, isOld, isAwaited } = useTurns(
    name,
    choices.map(([choice]) => choice),
    put,
  )
  const bars = turned ? barsOf(turned) : null
  if (isAwaited) return <div aria-hidden className="h-[28px]" />
  if (!bars) return null
  return (
    <div
      role="group"
      aria-label={`${MEASURE_NAMES[measure] ?? measure} by ${name}`}
      data-bars={isOld ? 'old' : 'there'}
      className="flex items-end gap-1 pb-1"
      style={{ opacity: isOld ? 0.45 : 1 }}
      onFocus={() => queue.take(name)}
    >
      {choices.map(([choice, words], i) => {
        const bar = bars[i]
        if (!bar) return null
        const label = `${words}: ${measureText(bar.mean)}`
        return (
          <button
            key={choice}
            type="button"
            aria-label={label}
            aria-pressed={choice === value}
            title={label}
            className="fills flex h-[24px] min-w-[24px] flex-1 cursor-pointer items-end border-b border-base-300 hover:bg-base-200"
            onClick={() => onChoose(choice)}
          >
            <span
              aria-hidden
              className="block w-full"
              style={{
                height: Math.max(2, bar.height * HEIGHT),
                background: choice === value ? 'var(--color-primary)' : 'var(--quiet)',
                opacity: choice === value ? 1 : 0.55,
              }}
            />
          </button>
        )
      })}
      {says && <span className="quiet pl-1 text-[11px]">{says(bars.map((bar) => bar.mean))}</span>}
    </div>
  )
}

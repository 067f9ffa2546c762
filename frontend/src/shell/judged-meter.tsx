import { Link } from 'react-router'
import type { Collection } from '../api/queries'
import { Delta } from '../parts/delta'
import { firstError, freshness, isOutdated } from '../thinking/freshness'
import { MEASURE_NAMES, measureText } from '../thinking/figures'
import { carried, useAddress } from './address'
import { useLasting } from '../parts/use-lasting'
import { MAIN_MEASURE, METER_MEASURES, useMeter } from './use-meter'

// Its name tells those who do not see it dimmed.
const STANDINGS = {
  current: 'Judged meter',
  renewing: 'Judged meter, renewing',
  silent: 'Judged meter, of before: the server does not answer',
  refused: 'Judged meter',
} as const

export function JudgedMeter({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const { meter, asked } = useMeter(collection)
  const state = freshness(...asked)
  const error = firstError(...asked)
  const lasts = useLasting(state === 'renewing', 400)
  if (collection.judged_sets.length === 0) return <span className="quiet small">No judged set yet</span>
  if (error && (!meter || state === 'refused'))
    return (
      <span className="loss small" title={error.message}>
        Not measured{state === 'silent' ? ': no answer' : ''}
      </span>
    )
  if (!meter) return <span className="quiet small">Measuring …</span>
  const { line, draft, set, gain, measure } = meter
  const unjudged = `${Math.round(100 * (draft.figures.unjudged[measure] ?? 0))} % unjudged`
  const total = line.strokes.length + line.still
  return (
    <div
      role="group"
      aria-label={STANDINGS[state]}
      aria-busy={state !== 'current'}
      data-outdated={isOutdated(...asked) || lasts ? '' : undefined}
      className="flex flex-wrap items-baseline gap-x-2"
    >
      <select
        aria-label="Measure of the meter"
        title="The measure that the meter, the waterline and the sheet go by"
        className="quiet small w-auto max-w-[132px] bg-transparent"
        value={measure}
        onChange={(event) => change({ by: event.target.value === MAIN_MEASURE ? null : event.target.value })}
      >
        {METER_MEASURES.map((name) => (
          <option key={name} value={name}>
            {MEASURE_NAMES[name]}
          </option>
        ))}
      </select>
      <Link
        to={`/${collection.name}/measures${carried(params)}`}
        data-outdated={isOutdated(...asked) || lasts ? '' : undefined}
        title={`${set}: mean ${MEASURE_NAMES[measure]} of ${total} judged queries; of what it looks at ${unjudged}`}
        className="kept flex flex-wrap items-baseline gap-x-3 text-[14px]"
      >
        {state === 'silent' && <span className="kept-note loss small">of before; no answer</span>}
        {lasts && <span aria-hidden className="kept-note loading loading-spinner loading-xs self-center" />}
        <span className="quiet max-w-[140px] truncate">{set}</span>
        <span>
          <span className="sr-only">{MEASURE_NAMES[measure]} </span>
          <b className="text-[16px] font-semibold">{measureText(draft.figures.measured.means[measure])}</b>
        </span>
        <span className="quiet small" title="Share of unjudged records among those that the measure looks at">
          {unjudged}
        </span>
        <span className="min-w-[52px] text-right">
          <Delta value={gain} />
        </span>
        <span className="min-w-[86px]" role="img" aria-label={`${line.gained} gained, ${line.lost} lost of ${total}`}>
          <span className="gain">▲{line.gained}</span> <span className="loss">▼{line.lost}</span>{' '}
          <span className="quiet">of {total}</span>
        </span>
      </Link>
    </div>
  )
}

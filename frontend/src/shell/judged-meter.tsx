import { Link, useSearchParams } from 'react-router'
import type { Collection } from '../api/queries'
import { Delta } from '../parts/delta'
import { firstError, freshness, isOutdated } from '../thinking/freshness'
import { measureText } from '../thinking/figures'
import { carried } from './address'
import { useLasting } from '../parts/use-lasting'
import { MAIN_MEASURE, useMeter } from './use-meter'

// Its name tells those who do not see it dimmed.
const STANDINGS = {
  current: 'Judged meter',
  renewing: 'Judged meter, renewing',
  silent: 'Judged meter, of before: the server does not answer',
  refused: 'Judged meter',
} as const

export function JudgedMeter({ collection }: { collection: Collection }) {
  const [params] = useSearchParams()
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
  const { line, draft, set, gain } = meter
  const unjudged = `${Math.round(100 * (draft.figures.unjudged[MAIN_MEASURE] ?? 0))} % unjudged`
  const total = line.strokes.length + line.still
  return (
    <div
      role="group"
      aria-label={STANDINGS[state]}
      aria-busy={state !== 'current'}
      data-outdated={isOutdated(...asked) || lasts ? '' : undefined}
    >
      <Link
        to={`/${collection.name}/measures${carried(params)}`}
        data-outdated={isOutdated(...asked) || lasts ? '' : undefined}
        title={`${set}: mean nDCG@10 of ${total} judged queries; of the first ten ${unjudged}`}
        className="kept flex flex-wrap items-baseline gap-x-3 text-[14px]"
      >
        {state === 'silent' && <span className="kept-note loss small">of before; no answer</span>}
        {lasts && <span aria-hidden className="kept-note loading loading-spinner loading-xs self-center" />}
        <span className="quiet max-w-[140px] truncate">{set}</span>
        <span>
          nDCG@10 <b className="text-[16px] font-semibold">{measureText(draft.figures.measured.means[MAIN_MEASURE])}</b>
        </span>
        <span className="quiet small" title="Share of unjudged records among the first ten">
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

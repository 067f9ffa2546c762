import { Link, useSearchParams } from 'react-router'
import type { Collection } from '../api/queries'
import { Delta } from '../parts/delta'
import { measureText } from '../thinking/figures'
import { carried } from './address'
import { MAIN_MEASURE, useMeter } from './use-meter'

export function JudgedMeter({ collection }: { collection: Collection }) {
  const [params] = useSearchParams()
  const { meter, error } = useMeter(collection)
  if (collection.judged_sets.length === 0) return <span className="quiet small">No judged set yet</span>
  if (error)
    return (
      <span className="loss small" title={error.message}>
        Not measured
      </span>
    )
  if (!meter) return <span className="quiet small">Measuring …</span>
  const { line, draft, set, gain } = meter
  const unjudged = `${Math.round(100 * (draft.figures.unjudged[MAIN_MEASURE] ?? 0))} % unjudged`
  const total = line.strokes.length + line.still
  return (
    <Link
      to={`/${collection.name}/measures${carried(params)}`}
      aria-label="Judged meter"
      title={`${set}: mean nDCG@10 of ${total} judged queries; of the first ten ${unjudged}`}
      className="flex shrink-0 items-baseline gap-3 text-[14px]"
    >
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
      <span className="min-w-[86px]" aria-label={`${line.gained} gained, ${line.lost} lost`}>
        <span className="gain">▲{line.gained}</span> <span className="loss">▼{line.lost}</span>{' '}
        <span className="quiet">of {total}</span>
      </span>
    </Link>
  )
}

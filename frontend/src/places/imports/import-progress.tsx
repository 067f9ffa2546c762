// An import under way: how far, how quick, how long yet; cancelled or gone on with from here.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useEffectEvent, useState } from 'react'
import { me } from '../../api/people'
import { cancelImport, importWithId, letImportGoOn, resumeImport, type Import } from '../../api/records'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { countText } from '../../thinking/figures'
import { deletesMany, emptiedText, outlookText, progressOf, reportText, undoneText } from '../../thinking/progress'
import { useDoing } from '../../shell/use-doing'
import { FirstTuning, FirstTuningOfImport } from '../tuning/first-tuning'
import { UndoImport } from './undo-import'
import { renew } from '../../api/subjects'
import { Changing } from '../../shell/changing'

const FINISHED = ['done', 'failed', 'cancelled']

export function ImportProgress({
  id,
  first,
  onFinished,
}: {
  id: number
  first?: Import
  onFinished?: (now: Import) => void
}) {
  const client = useQueryClient()
  const { change } = useAddress()
  const found = useQuery({ ...importWithId(id), ...(first ? { initialData: first } : {}) })
  const now = found.data ?? null
  const finished = now !== null && FINISHED.includes(now.state)
  const tell = useEffectEvent(() => now && onFinished?.(now))
  useEffect(() => {
    if (finished) void renew(client, 'everything').then(tell)
  }, [id, client, finished])
  // It may have made its collection, whose owner is whoever began it.
  useEffect(() => void client.invalidateQueries({ queryKey: me().queryKey }), [id, client])
  const { busy, problem, act } = useDoing(null)
  if (found.isError) return <ProblemNote error={found.error} />
  if (!now) return <p className="quiet">Starting …</p>
  const { share, rate, left } = progressOf(now)
  if (finished) {
    return <Outcome now={now} change={change} id={id} />
  }
  if (now.state === 'undecided') return <Undecided now={now} busy={busy} act={act} problem={problem} />
  return <UnderWay now={now} rate={rate} left={left} busy={busy} act={act} id={id} share={share} problem={problem} />
}

function Outcome({ now, change, id }: { now: Import; change: ReturnType<typeof useAddress>['change']; id: number }) {
  return (
    <div role="status">
      {now.state === 'done' && now.report && (
        <div className="text-[16px]">
          <b className="font-semibold">
            {now.name} {now.undone ? 'was undone' : 'is in'}.
          </b>{' '}
          {now.undone ? undoneText(now.undone) : reportText(now.report)} <UndoImport one={now} />
        </div>
      )}
      {now.state === 'done' && !now.undone && now.tune_start && <FirstTuningOfImport one={now} />}
      {now.state === 'done' && !now.undone && !now.tune_start && <FirstTuning collection={now.collection} />}
      {now.state !== 'done' && (
        <p className={now.state === 'failed' ? 'loss wrap-anywhere' : ''}>
          <b className="font-semibold">{now.name} is not in.</b> {now.problem}
        </p>
      )}
      {now.rows_rejected > 0 && (
        <button
          type="button"
          className="link"
          onClick={() => change({ view: 'rejected', of: String(id), import: null }, false)}
        >
          Read why {countText(now.rows_rejected)} {now.rows_rejected === 1 ? 'row was' : 'rows were'} rejected
        </button>
      )}
    </div>
  )
}

// What it would do; where more than a tenth would go, only whoever types how many lets it.
function Undecided({
  now,
  busy,
  act,
  problem,
}: {
  now: Import
  busy: boolean
  act: ReturnType<typeof useDoing>['act']
  problem: null | Error
}) {
  const [said, setSaid] = useState('')
  const outlook = now.outlook
  if (outlook === null) return null
  const asksNumber = deletesMany(outlook)
  const agreed = !asksNumber || Number(said.replaceAll(/[\s,.]/g, '')) === outlook.deleted
  const goOn = () => void act(() => letImportGoOn(now.id, outlook.deleted))
  return (
    <form
      aria-label="What the import would do"
      onSubmit={(event) => {
        event.preventDefault()
        if (agreed && !busy) goOn()
      }}
    >
      <Changing of={now.collection}>
        <p className="text-[16px]" role="status">
          <b className="font-semibold">{now.name} is not in yet.</b> What it would do to
          {` ${countText(outlook.records)} ${outlook.records === 1 ? 'record' : 'records'}: ${outlookText(outlook)}.`}
        </p>
        {emptiedText(outlook) && <p className="loss">{emptiedText(outlook)}</p>}
        {now.rows_rejected > 0 && (
          <p className="quiet">
            {countText(now.rows_rejected)} {now.rows_rejected === 1 ? 'row' : 'rows'} cannot be read.
          </p>
        )}
        <div className="flex flex-wrap items-center gap-3 pt-2">
          {asksNumber && (
            <label className="flex items-center gap-2">
              <span className="loss">
                {countText(outlook.deleted)} of {countText(outlook.records)} records go. To agree, type their number
              </span>
              <input
                dir="auto"
                className="input input-sm figure w-[110px] border-base-300 bg-transparent"
                inputMode="numeric"
                value={said}
                onChange={(event) => setSaid(event.target.value)}
              />
            </label>
          )}
          <button type="submit" className="btn btn-primary btn-sm" disabled={busy || !agreed}>
            Import
          </button>
          <button
            type="button"
            className="btn btn-ghost btn-sm font-normal"
            disabled={busy}
            onClick={() => void act(() => cancelImport(now.id))}
          >
            Leave it
          </button>
        </div>
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

function UnderWay({
  now,
  rate,
  left,
  busy,
  act,
  id,
  share,
  problem,
}: {
  now: Import
  rate: string
  left: string
  busy: boolean
  act: ReturnType<typeof useDoing>['act']
  id: number
  share: number | null
  problem: null | Error
}) {
  return (
    <div aria-label="Import under way">
      <div className="flex items-baseline gap-3">
        <b className="font-semibold">{now.name}</b>
        <span className="quiet flex-1" aria-live="polite">
          {now.state === 'waiting'
            ? 'waiting for its turn'
            : `${now.phase}: ${countText(now.rows_read)} rows${now.rows_rejected > 0 ? `, ${countText(now.rows_rejected)} of them rejected` : ''}`}
        </span>
        <span className="quiet small">{[rate, left].filter(Boolean).join(', ')}</span>
        <Changing of={now.collection}>
          {now.cut_off && (
            <button
              type="button"
              className="btn btn-sm"
              disabled={busy}
              onClick={() => void act(() => resumeImport(id))}
            >
              Go on
            </button>
          )}
          <button
            type="button"
            className="btn btn-ghost btn-sm font-normal"
            disabled={busy}
            onClick={() => void act(() => cancelImport(id))}
          >
            Cancel
          </button>
        </Changing>
      </div>
      <div
        role="progressbar"
        aria-label={`Import of ${now.name}`}
        aria-valuenow={share === null ? undefined : Math.round(share * 100)}
        className="mt-1 h-[7px] w-full bg-base-300"
      >
        <div
          className="fills h-full bg-secondary"
          style={{ width: `${100 * (share ?? (now.state === 'waiting' ? 0 : 0.5))}%` }}
        />
      </div>
      {now.cut_off && <p className="quiet small pt-1">It was cut off; it can go on where it stood.</p>}
      {problem && <ProblemNote error={problem} />}
    </div>
  )
}

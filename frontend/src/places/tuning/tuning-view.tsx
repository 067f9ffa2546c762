// One tuning: how far it is and the best so far, or what it came to.
import { useQuery } from '@tanstack/react-query'
import type { Collection } from '../../api/queries'
import { forgetTuning, stopTuning, tuning, tuningPage } from '../../api/tuning'
import { Unanswered } from '../../parts/answered'
import { CopyButton } from '../../parts/copy-button'
import { ProblemNote } from '../../parts/notes'
import type { Draft } from '../../shell/use-draft'
import { useDoing } from '../../shell/use-doing'
import { isRunning, standingOf } from '../../thinking/tuning'
import { BestSoFar } from './best-so-far'
import { ReportView } from './report-view'
import { Changing } from '../../shell/changing'

export function TuningView(props: { collection: Collection; number: number; draft: Draft; onForgotten: () => void }) {
  const { collection, number } = props
  const found = useQuery(tuning(collection.name, number))
  const page = useQuery({ ...tuningPage(collection.name, number), enabled: !!found.data?.report })
  const { busy, problem, act } = useDoing('tuning', collection.name)
  if (!found.data) return <Unanswered asked={[found]} what="the tuning" />
  const one = found.data
  const forget = () =>
    act(() => forgetTuning(collection.name, number), {
      then: () => !isRunning(one) && props.onForgotten(),
      gone: isRunning(one) ? undefined : String(number),
    })
  return (
    <div className="px-6 py-4">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <p
          role="status"
          className={one.state === 'failed' ? 'loss min-w-0 flex-1 wrap-anywhere' : 'quiet min-w-0 flex-1'}
        >
          {one.report ? '' : standingOf(one)}
        </p>
        {isRunning(one) && (
          <Changing>
            <button
              type="button"
              className="btn btn-xs"
              disabled={busy}
              onClick={() => void act(() => stopTuning(collection.name, number))}
            >
              Stop and keep what was found
            </button>
          </Changing>
        )}
        {page.data && <CopyButton what="Copy the report as Markdown" text={() => page.data.markdown} />}
        <Changing>
          <button
            type="button"
            className="btn btn-ghost btn-xs font-normal"
            disabled={busy}
            onClick={() => void forget()}
          >
            {isRunning(one) ? 'Cancel' : 'Forget it'}
          </button>
        </Changing>
      </div>
      {problem && <ProblemNote error={problem} />}
      {!one.is_current && (
        <p role="note" className="loss pb-2">
          Records or judgments changed since: these figures are of before. Tune again.
        </p>
      )}
      {one.kept !== null && (
        <p role="note" className="gain pb-2 font-semibold">
          Kept as {one.kept}, since the gain holds.
        </p>
      )}
      {!one.report && one.found.length > 0 && <BestSoFar tuning={one} />}
      {one.report && <ReportView collection={collection} tuning={one} report={one.report} draft={props.draft} />}
    </div>
  )
}

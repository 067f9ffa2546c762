// What a tuning came to: what is to be thought of it first, then the setting, what holds held out, and the knobs.
import type { Collection } from '../../api/queries'
import type { Tuning, TuningReport } from '../../api/tuning'
import { Delta } from '../../parts/delta'
import { TakeAway } from '../../parts/take-away'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import type { Draft } from '../../shell/use-draft'
import { draftParam } from '../../thinking/draft'
import { measureText } from '../../thinking/figures'
import { KnobsAround } from './knobs-around'
import { SurfacePlot } from './surface-plot'

type Setting = TuningReport['offered']

export function ReportView(props: { collection: Collection; tuning: Tuning; report: TuningReport; draft: Draft }) {
  const { report, tuning, draft } = props
  const { change } = useAddress()
  const { ranker, version } = tuning.plan
  const baseline = draft.kept.find((one) => one.name === ranker && one.version === version)
  const take = (setting: Setting) => {
    if (!baseline) return
    const document = setting.document as typeof baseline.filled_in
    change({ ranker: `${baseline.name}:${baseline.version}`, d: draftParam(baseline.filled_in, document) }, false)
  }
  useKeys((event) => {
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey || event.key !== 'm') return
    if (report.offered.changes.length > 0) take(report.offered)
  })
  const held = report.held_out
  return (
    <>
      <h2 className="max-w-[80ch] text-lg font-semibold">{report.said}</h2>
      <p className="quiet small pb-3">
        {report.ranker} on {report.judged_set}, {report.measure} over {report.queries} queries;{' '}
        {report.tried.toLocaleString('en-US')} settings tried in {report.seconds.toFixed(1)} s
        {report.ended && `; ${report.ended}`}
      </p>
      {held && (
        <p className="pb-3">
          held out <b className="text-[16px] font-semibold">{measureText(held.before)}</b> →{' '}
          <b className="text-[16px] font-semibold">{measureText(held.after)}</b>{' '}
          <Delta value={held.after - held.before} /> <span className="gain">▲{held.gained}</span>{' '}
          <span className="loss">▼{held.lost}</span> <span className="quiet small">of {held.queries}</span>
        </p>
      )}
      <Offered
        title="The simplest that is as good within luck"
        setting={report.offered}
        before={report.before}
        hint="m"
        onTake={baseline ? () => take(report.offered) : null}
      />
      {report.best && (
        <Offered
          title="The best on these queries"
          setting={report.best}
          before={report.before}
          onTake={baseline ? () => take(report.best ?? report.offered) : null}
        />
      )}
      {report.rails.length > 0 && (
        <>
          <h3 className="heading quiet pt-3 pb-1">Guard rails</h3>
          <ul>
            {report.rails.map((one) => (
              <li key={one.text}>
                <span className={one.holds ? 'quiet' : 'loss'}>{one.holds ? 'kept' : 'broken'}</span> {one.text}
              </li>
            ))}
          </ul>
        </>
      )}
      <Folds report={report} />
      <KnobsAround report={report} />
      {report.surface && <SurfacePlot report={report} surface={report.surface} />}
    </>
  )
}

function Offered(props: {
  title: string
  setting: Setting
  before: number
  hint?: string
  onTake: (() => void) | null
}) {
  const { setting } = props
  return (
    <section aria-label={props.title} className="line-t max-w-[760px] py-2">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h3 className="font-semibold">{props.title}</h3>
        <span className="figure">
          {measureText(props.before)} → {measureText(setting.mean)}
        </span>
        <span className="quiet small">on the queries that it was tuned on</span>
        {setting.changes.length > 0 && props.onTake && (
          <button type="button" className="btn btn-xs" title={props.hint} onClick={props.onTake}>
            Make it the draft
          </button>
        )}
      </div>
      {setting.changes.length === 0 ? (
        <p className="quiet">Nothing is turned: all as it stands.</p>
      ) : (
        <ul className="pt-1">
          {setting.changes.map((one, i) => (
            <li key={i} className="wrap-anywhere">
              {one.what} <span className="quiet">{one.before}</span> → <b className="font-semibold">{one.after}</b>
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}

function Folds({ report }: { report: TuningReport }) {
  if (report.folds.length === 0) return null
  const rows = () => [
    ['fold', 'queries', 'before', 'after', 'found without it'],
    ...report.folds.map((one, i) => [i + 1, one.queries, one.before, one.after, one.changes.join('; ')]),
  ]
  return (
    <>
      <div className="flex items-baseline gap-3 pt-3">
        <h3 className="heading quiet">Held out</h3>
        <TakeAway what="the folds" file={`${report.judged_set}-folds`} rows={rows} />
      </div>
      <div className="overflow-x-auto">
        <table className="w-full text-left">
          <thead>
            <tr className="quiet small">
              {['fold', 'queries', 'before', 'after', ''].map((name, i) => (
                <th key={name} scope="col" className={`py-1 pr-4 font-normal ${i < 4 ? 'text-right' : ''}`}>
                  {name || 'found without it'}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {report.folds.map((one, i) => (
              <tr key={i} className="line-b align-baseline">
                <td className="figure pr-4 text-right">{i + 1}</td>
                <td className="figure pr-4 text-right">{one.queries}</td>
                <td className="figure pr-4 text-right">{measureText(one.before)}</td>
                <td className="figure pr-4 text-right">{measureText(one.after)}</td>
                <td className="small min-w-60 py-1 wrap-anywhere">{one.changes.join('; ') || 'nothing turned'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  )
}

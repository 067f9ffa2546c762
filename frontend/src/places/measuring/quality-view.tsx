// Quality over time: every kept version by the judgments of today, and the checks of guard rules.
import { useQuery } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'
import { Link } from 'react-router'
import { qualityOverTime, type Check, type Quality, type VersionQuality } from '../../api/quality'
import type { Collection } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { Empty } from '../../parts/notes'
import { Plotted, type Plotter } from '../../parts/plotted'
import { TakeAway } from '../../parts/take-away'
import { carried, useAddress } from '../../shell/address'
import { useMainMeasure } from '../../shell/use-meter'
import { measureText, MEASURE_NAMES } from '../../thinking/figures'
import { parsedHow } from '../../thinking/how'
import {
  checkText,
  labelled,
  newestChecks,
  pointsOf,
  qualityTable,
  spanOf,
  titleOf,
  type Point,
} from '../../thinking/quality'

export function QualityView({ collection, set }: { collection: Collection; set: string }) {
  const { params } = useAddress()
  const measure = useMainMeasure()
  const found = useQuery(qualityOverTime(collection, set, measure, parsedHow(params.get('rules'))))
  if (!found.data) return <Unanswered asked={[found]} what="the versions" />
  const told = found.data
  return (
    <Kept asked={[found]} what="the versions" className="h-full">
      <div className="panes grid h-full grid-cols-[minmax(0,1fr)_340px]">
        <section aria-label="Versions" className="min-h-0 overflow-auto" tabIndex={0}>
          {told.versions.length === 0 ? (
            <Empty title="No version is kept yet">Keep a draft in Ranking: it becomes the first.</Empty>
          ) : (
            <Versions told={told} collection={collection} set={set} measure={measure} />
          )}
        </section>
        <aside aria-label="Checks" className="line-l min-h-0 overflow-y-auto px-4 py-3">
          <Checks checks={told.checks} collection={collection} set={set} />
        </aside>
      </div>
    </Kept>
  )
}

type Shown = { told: Quality; collection: Collection; set: string; measure: string }

function Versions({ told, collection, set, measure }: Shown) {
  const points = useMemo(() => pointsOf(told), [told])
  const by = MEASURE_NAMES[measure] ?? measure
  return (
    <>
      <div className="flex items-baseline gap-4 px-4 pt-3">
        <h2 className="min-w-0 flex-1">
          {by} of every kept version, by the judgments of today{' '}
          <span className="quiet small">
            {told.queries} open queries{told.older > 0 && `; ${told.older} older versions are left out`}
          </span>
        </h2>
        <TakeAway what="the versions" file={`${set}-versions`} rows={() => qualityTable(told)} />
      </div>
      {points.length > 1 && <Course points={points} by={by} />}
      <div className="overflow-x-auto px-4 pb-4">
        <table className="w-full text-left">
          <thead>
            <tr className="quiet small">
              {['kept', 'version', by, 'to the one before', 'check', 'why'].map((name, i) => (
                <th key={name} scope="col" className={`py-1 pr-4 font-normal ${i === 2 ? 'text-right' : ''}`}>
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {told.versions.toReversed().map((one) => (
              <VersionRow
                key={titleOf(one)}
                one={one}
                check={newestChecks(told.checks).get(titleOf(one))}
                collection={collection}
              />
            ))}
          </tbody>
        </table>
      </div>
    </>
  )
}

function VersionRow(props: { one: VersionQuality; check: Check | undefined; collection: Collection }) {
  const { one, check } = props
  const { params } = useAddress()
  return (
    <tr className="line-t align-baseline">
      <td className="quiet small py-1 pr-4 whitespace-nowrap">{one.kept_at.slice(0, 16).replace('T', ' ')}</td>
      <td className="pr-4">
        <Link
          className="link inline-block min-h-6 whitespace-nowrap"
          to={`/${props.collection.name}/ranking${carried(withoutDraft(params), { ranker: titleOf(one) })}`}
        >
          {one.ranker} {one.version}
        </Link>
      </td>
      <td className="figure pr-4 text-right">
        {one.mean === null ? <span className="loss small">not asked</span> : measureText(one.mean)}
      </td>
      <td className="figure pr-4 whitespace-nowrap">
        {one.gained !== null && one.lost !== null && (
          <>
            <span className={one.gained > 0 ? 'gain' : 'quiet'}>▲{one.gained}</span>{' '}
            <span className={one.lost > 0 ? 'loss' : 'quiet'}>▼{one.lost}</span>
          </>
        )}
      </td>
      <td className={`small pr-4 whitespace-nowrap ${check && !check.holds ? 'loss' : ''}`}>
        {check && checkText(check)}
      </td>
      <td className="small min-w-40 wrap-anywhere">
        <span className="line-clamp-2" title={one.problem ?? one.note}>
          {one.problem ?? one.note}
        </span>
      </td>
    </tr>
  )
}

function withoutDraft(params: URLSearchParams): URLSearchParams {
  const kept = new URLSearchParams(params)
  kept.delete('d')
  return kept
}

const [WIDE, HIGH] = [820, 200]

function Course({ points, by }: { points: Point[]; by: string }) {
  const make = useCallback(
    (plotter: Plotter) => ({
      marginLeft: 44,
      marginRight: 90,
      x: { label: null, ticks: [], domain: [0.5, Math.max(...points.map((one) => one.order)) + 0.5] },
      y: { label: null, domain: spanOf(points), grid: false, ticks: 4 },
      marks: [
        plotter.axisY({ ticks: 4, tickSize: 0 }),
        plotter.line(points, { x: 'order', y: 'mean', z: 'ranker', stroke: 'currentColor', strokeOpacity: 0.35 }),
        plotter.dot(points, { x: 'order', y: 'mean', r: 4, fill: 'var(--color-primary)' }),
        plotter.text(labelled(points), {
          x: 'order',
          y: 'mean',
          text: (one: Point) => `${one.ranker} ${one.version}`,
          textAnchor: 'start',
          dx: 8,
        }),
      ],
    }),
    [points],
  )
  const first = points[0]
  const last = points.at(-1)
  return (
    <div className="px-4 pt-2">
      <Plotted
        make={make}
        what={`${by} from ${measureText(first?.mean ?? 0)} of the first version to ${measureText(last?.mean ?? 0)} of the newest`}
        width={WIDE}
        height={HIGH}
      />
    </div>
  )
}

function Checks({ checks, collection, set }: { checks: Check[]; collection: Collection; set: string }) {
  return (
    <>
      <h2 className="heading quiet pb-1">Checks</h2>
      {checks.length === 0 ? (
        <p className="quiet small">
          None yet. A build server asks so, and each asking is kept here:{' '}
          <code className="wrap-anywhere">
            ./paleharbor check {collection.name} --set {set} --ranker NAME --rule &apos;ndcg@10 may not drop more than
            0.01&apos; --against VERSION
          </code>
        </p>
      ) : (
        <ol className="long-list">
          {checks.map((one) => (
            <li key={`${one.checked_at} ${one.ranker}`} className="line-b py-2">
              <span className={`font-semibold ${one.holds ? 'gain' : 'loss'}`}>{one.holds ? 'holds' : 'broken'}</span>{' '}
              {one.ranker}
              {one.against !== null && <span className="quiet"> against {one.against}</span>}{' '}
              <time className="quiet small" dateTime={one.checked_at}>
                {one.checked_at.slice(0, 16).replace('T', ' ')}
              </time>
              <ul className="small">
                {one.rules.map((rule) => (
                  <li key={String(rule.text)} className={`wrap-anywhere ${rule.holds === true ? 'quiet' : 'loss'}`}>
                    {rule.holds === true ? '✓' : '×'} {String(rule.text)}: {String(rule.found)}
                  </li>
                ))}
              </ul>
            </li>
          ))}
        </ol>
      )}
    </>
  )
}

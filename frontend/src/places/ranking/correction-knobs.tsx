// Whether a query is told what it may have meant, how sure that has to be, and what it does.
import { useQuery } from '@tanstack/react-query'
import { useCallback, useState } from 'react'
import { correctionsMeasured, type CorrectionsMeasured } from '../../api/corrections'
import type { Collection } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { Plotted, type Plotter } from '../../parts/plotted'
import { TakeTable } from '../../parts/take-table'
import { useSetName, type Draft } from '../../shell/use-draft'
import type { Undo } from '../../shell/use-undo'
import { measuredText, pointsBySure, type BySure } from '../../thinking/corrections'
import { measureText } from '../../thinking/figures'
import { CORRECTIONS, type Corrections } from '../../thinking/ranker-parts'
import { Switch } from './controls'
import { WithoutCurves } from './curves'
import { PartKnobs } from './part-knobs'

export function correctionsSays(draft: Draft): { says: string; moved: boolean } {
  const corrections = draft.document.corrections ?? null
  return {
    says: corrections ? `as sure as ${corrections.sure}${corrections.take === 'nothing' ? ', taken' : ''}` : 'off',
    moved: JSON.stringify(corrections) !== JSON.stringify(draft.baseline.filled_in.corrections ?? null),
  }
}

type Props = { collection: Collection; draft: Draft; undo: Undo }

export function CorrectionKnobs({ collection, draft, undo }: Props) {
  const { document } = draft
  const corrections = document.corrections ?? null
  const was = draft.baseline.filled_in.corrections ?? undefined
  const put = (changes: Partial<Corrections>) => ({
    ...document,
    corrections: { ...CORRECTIONS, ...corrections, ...changes },
  })
  return (
    <WithoutCurves>
      <Switch
        name="Say what may have been meant"
        on={corrections !== null}
        onTurn={(on) => undo.commit({ ...document, corrections: on ? (was ?? CORRECTIONS) : null })}
      />
      {corrections && (
        <>
          <p className="quiet small pb-1">
            {corrections.take === 'nothing'
              ? 'Judged queries that find nothing are measured by the list of the correction.'
              : 'Judged queries are measured as they were typed.'}
          </p>
          <PartKnobs part="Corrections" of="" value={corrections} was={was} put={put} undo={undo} />
          <Measured collection={collection} draft={draft} />
        </>
      )}
    </WithoutCurves>
  )
}

// Asked for by a press: it takes a second or two.
function Measured({ collection, draft }: { collection: Collection; draft: Draft }) {
  const [wanted, setWanted] = useState(false)
  const set = useSetName(collection)
  const measured = useQuery({ ...correctionsMeasured(collection, set, draft.choice), enabled: wanted })
  if (!wanted) {
    return (
      <button type="button" className="link small" onClick={() => setWanted(true)}>
        What they do to judged queries and to made-up slips
      </button>
    )
  }
  if (!measured.data) return <Unanswered asked={[measured]} what="what they do" />
  return (
    <Kept asked={[measured]} what="what they do">
      <Told told={measured.data} />
    </Kept>
  )
}

const [WIDE, HIGH] = [224, 120]

// What is mended and what is gained, by how sure a correction has to be; a rule where the draft stands.
function SureCurve({ told }: { told: CorrectionsMeasured }) {
  const make = useCallback(
    (plotter: Plotter) => {
      const points = pointsBySure(told)
      const ends = points.filter((one) => one.sure === told.steps.at(-1)?.sure)
      return {
        marginLeft: 34,
        marginRight: 62,
        marginTop: 10,
        x: { label: 'as sure as', tickSize: 0, ticks: 3 },
        y: { label: null, domain: [0, 1] },
        marks: [
          plotter.axisY({ ticks: 3, tickSize: 0, tickFormat: (value: number) => String(value) }),
          plotter.ruleX([told.sure], { strokeOpacity: 0.4 }),
          plotter.line(points, {
            x: 'sure',
            y: 'value',
            z: 'what',
            stroke: 'currentColor',
            strokeWidth: 1.5,
            strokeOpacity: (one: BySure) => (one.what === 'mended' ? 1 : 0.5),
          }),
          plotter.text(ends, { x: 'sure', y: 'value', text: 'what', textAnchor: 'start', dx: 6 }),
        ],
      }
    },
    [told],
  )
  return (
    <Plotted
      make={make}
      what="Share of slips that are mended, of right queries that are touched, and nDCG@10, by how sure a correction has to be: the table below"
      width={WIDE}
      height={HIGH}
    />
  )
}

function Told({ told }: { told: CorrectionsMeasured }) {
  return (
    <div className="small pt-1" role="group" aria-label="What corrections do">
      {measuredText(told).map((line) => (
        <p key={line} className="pb-1">
          {line}
        </p>
      ))}
      <SureCurve told={told} />
      <table className="w-full">
        <thead>
          <tr className="quiet text-left">
            <th className="font-normal">as sure as</th>
            <th className="figure font-normal">nDCG@10</th>
            <th className="figure font-normal">mended</th>
            <th className="figure font-normal">touched</th>
          </tr>
        </thead>
        <tbody>
          {told.steps.map((step) => (
            <tr key={step.sure} className={step.sure === told.sure ? 'font-semibold' : ''}>
              <td>{step.sure}</td>
              <td className="figure">{step.mean === null ? '–' : measureText(step.mean)}</td>
              <td className="figure">{(step.mended * 100).toFixed(1)} %</td>
              <td className="figure">{(step.touched * 100).toFixed(1)} %</td>
            </tr>
          ))}
        </tbody>
      </table>
      <TakeTable what="the table" file="corrections" />
    </div>
  )
}

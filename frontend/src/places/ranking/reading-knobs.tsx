// One reading's knobs: its weight in sight, everything else a click away.
import { useState } from 'react'
import { readingShade } from '../../parts/source-bar'
import { chainText, MOST_WEIGHT, reachOf } from '../../thinking/draft'
import { withReading, without, type Reading } from '../../thinking/ranker-parts'
import type { Draft } from '../../shell/use-draft'
import { Choice, NumberKnob, Switch } from './controls'
import type { Undo } from './use-undo'

const GAPS = [0, 1, 2, 3, 5, 10] as const

export function ReadingKnobs(props: { draft: Draft; undo: Undo; i: number; onOpenChains: () => void }) {
  const { draft, undo, i } = props
  const [open, setOpen] = useState(false)
  const reading = draft.document.readings[i]
  const was =
    draft.document.readings.length === draft.baseline.filled_in.readings.length
      ? draft.baseline.filled_in.readings[i]
      : undefined
  if (!reading) return null
  const changed = (changes: Partial<Reading>) => withReading(draft.document, i, changes)
  const name = `Weight of ${reading.field}`
  return (
    <div className="px-4 py-[6px]">
      <NumberKnob
        name={name}
        value={reading.weight}
        was={was?.weight}
        least={0}
        most={MOST_WEIGHT}
        reach={reachOf(was?.weight ?? 1)}
        step={0.1}
        label={
          <button
            type="button"
            aria-expanded={open}
            aria-label={`More of ${reading.field}`}
            className="flex min-w-0 items-center gap-2"
            onClick={() => setOpen(!open)}
          >
            <span aria-hidden className="h-[11px] w-[11px] shrink-0" style={{ background: readingShade(i) }} />
            <span className="truncate font-semibold" title={reading.field}>
              {reading.field}
            </span>
            <span aria-hidden className="quiet">
              {open ? '−' : '+'}
            </span>
          </button>
        }
        onPreview={(weight) => undo.preview(changed({ weight }))}
        onCommit={(weight) => undo.commit(changed({ weight }))}
        onSettle={undo.settle}
      />
      <p className="quiet truncate font-mono text-[12px]" title={chainText(reading.chain)}>
        {chainText(reading.chain)}
      </p>
      {open && (
        <div className="small mt-1 border-l-2 border-base-300 pl-3">
          <Small
            name="k1"
            field={reading.field}
            value={reading.k1}
            was={was?.k1}
            most={1000}
            reach={3}
            step={0.1}
            title="How long more occurrences of a word go on adding"
            undo={undo}
            change={(k1) => changed({ k1 })}
          />
          <Small
            name="b"
            field={reading.field}
            value={reading.b}
            was={was?.b}
            most={1}
            step={0.05}
            title="How much longer values are held back"
            undo={undo}
            change={(b) => changed({ b })}
          />
          <Small
            name="share of a word"
            field={reading.field}
            value={reading.share ?? 0}
            was={was?.share}
            most={1}
            step={0.05}
            title="Of the terms that a word is cut into, how many a record must hold; 0: any one. For grams."
            undo={undo}
            change={(share) => changed({ share })}
          />
          <Switch
            name="spelling slack"
            on={reading.slack ?? true}
            moved={was !== undefined && was.slack !== reading.slack}
            title="Whether spelling slack reaches this reading"
            onTurn={(slack) => undo.commit(changed({ slack }))}
          />
          <Switch
            name="nearness"
            on={reading.nearness !== null && reading.nearness !== undefined}
            moved={was !== undefined && JSON.stringify(was.nearness) !== JSON.stringify(reading.nearness)}
            title="Extra for words of the query that stand near each other"
            onTurn={(on) => undo.commit(changed({ nearness: on ? { weight: 1, gap: 0, same_order: true } : null }))}
          />
          {reading.nearness && (
            <div className="border-l-2 border-base-300 pl-3">
              <Small
                name="nearness weight"
                field={reading.field}
                value={reading.nearness.weight}
                was={was?.nearness?.weight}
                least={0.1}
                most={1000}
                reach={10}
                step={0.1}
                title=""
                undo={undo}
                change={(weight) => changed({ nearness: { ...near(reading), weight } })}
              />
              <Choice
                name={`gap in ${reading.field}`}
                label="gap"
                value={String(reading.nearness.gap)}
                choices={gapChoices(reading.nearness.gap)}
                onChoose={(gap) => undo.commit(changed({ nearness: { ...near(reading), gap: Number(gap) } }))}
              />
              <Switch
                name="in the query’s order"
                on={reading.nearness.same_order}
                onTurn={(same_order) => undo.commit(changed({ nearness: { ...near(reading), same_order } }))}
              />
            </div>
          )}
          <div className="flex justify-between pt-1">
            <button type="button" className="link" onClick={props.onOpenChains}>
              open its chain
            </button>
            {draft.document.readings.length > 1 && (
              <button
                type="button"
                className="link"
                onClick={() => undo.commit({ ...draft.document, readings: without(draft.document.readings, i) })}
              >
                take it out
              </button>
            )}
          </div>
        </div>
      )}
    </div>
  )
}

const near = (reading: Reading) => reading.nearness ?? { weight: 1, gap: 0, same_order: true }
const gapChoices = (gap: number) =>
  [...new Set([...GAPS, gap])]
    .sort((a, b) => a - b)
    .map((one) => [String(one), one === 0 ? 'adjacent' : `up to ${one} between`] as const)

function Small(props: {
  name: string
  field: string
  value: number
  was: number | undefined
  least?: number
  most: number
  reach?: number
  step: number
  title: string
  undo: Undo
  change: (value: number) => Parameters<Undo['commit']>[0]
}) {
  return (
    <NumberKnob
      name={`${props.name} of ${props.field}`}
      label={props.name}
      title={props.title}
      value={props.value}
      was={props.was}
      least={props.least ?? 0}
      most={props.most}
      reach={props.reach ?? props.most}
      step={props.step}
      onPreview={(value) => props.undo.preview(props.change(value))}
      onCommit={(value) => props.undo.commit(props.change(value))}
      onSettle={props.undo.settle}
    />
  )
}

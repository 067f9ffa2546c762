// One reading's knobs: its weight in sight, everything else a click away.
import { useState } from 'react'
import type { RankerDocument } from '../../api/queries'
import { readingShade } from '../../parts/source-bar'
import { chainText } from '../../thinking/draft'
import { knob, reachOf, stepOf } from '../../thinking/knobs'
import { NEARNESS, withReading, without, type Reading } from '../../thinking/ranker-parts'
import type { Draft } from '../../shell/use-draft'
import { NumberKnob, Switch } from './controls'
import { PartKnobs } from './part-knobs'
import { StageBars } from './stage-bars'
import type { Undo } from '../../shell/use-undo'

const WEIGHT = knob('Reading', 'weight')

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
        least={WEIGHT.least ?? 0}
        most={WEIGHT.most ?? 1}
        reach={reachOf(WEIGHT, was?.weight)}
        step={stepOf(WEIGHT)}
        label={
          <button
            type="button"
            aria-expanded={open}
            aria-label={`More of ${reading.field}`}
            className="flex max-w-full min-w-0 items-center gap-2"
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
        put={(weight) => changed({ weight })}
        undo={undo}
      />
      <p className="quiet truncate font-mono text-[12px]" title={chainText(reading.chain)}>
        {chainText(reading.chain)}
      </p>
      {open && (
        <ReadingDetails
          reading={reading}
          was={was}
          changed={changed}
          undo={undo}
          onOpenChains={props.onOpenChains}
          draft={draft}
          i={i}
        />
      )}
    </div>
  )
}

function ReadingDetails({
  reading,
  was,
  changed,
  undo,
  onOpenChains,
  draft,
  i,
}: {
  reading: Reading
  was: undefined | Reading
  changed: (changes: Partial<Reading>) => RankerDocument
  undo: Undo
  onOpenChains: () => void
  draft: Draft
  i: number
}) {
  return (
    <div className="small mt-1 border-l-2 border-base-300 pl-3">
      <PartKnobs
        part="Reading"
        of={reading.field}
        value={reading}
        was={was}
        put={(changes) => changed(changes)}
        undo={undo}
        own={['weight']}
      />
      <Switch
        name="nearness"
        on={reading.nearness !== null && reading.nearness !== undefined}
        moved={was !== undefined && JSON.stringify(was.nearness) !== JSON.stringify(reading.nearness)}
        title={knob('Reading', 'nearness').says}
        onTurn={(on) => undo.commit(changed({ nearness: on ? NEARNESS : null }))}
      />
      {reading.nearness && (
        <div className="border-l-2 border-base-300 pl-3">
          <PartKnobs
            part="Nearness"
            of={`nearness in ${reading.field}`}
            value={reading.nearness}
            was={was?.nearness ?? undefined}
            put={(changes) => changed({ nearness: { ...NEARNESS, ...reading.nearness, ...changes } })}
            undo={undo}
          />
        </div>
      )}
      <StageBars draft={draft} undo={undo} i={i} />
      <div className="flex justify-between pt-1">
        <button type="button" className="link" onClick={onOpenChains}>
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
  )
}

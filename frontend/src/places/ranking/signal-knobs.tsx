// Signals: numbers known of a record before any query.
import type { Collection, RankerDocument } from '../../api/queries'
import type { Draft } from '../../shell/use-draft'
import { sourceShade } from '../../parts/source-bar'
import { newSignal, replaced, without, type Signal } from '../../thinking/ranker-parts'
import { knob } from '../../thinking/knobs'
import { Choice, NumberKnob, TextKnob } from './controls'
import { PartKnobs } from './part-knobs'
import type { Undo } from '../../shell/use-undo'

const FRESH: readonly string[] = knob('Signal', 'now').where?.says ?? ['half_life', 'linear', 'bell']

export function SignalKnobs({ collection, draft, undo }: { collection: Collection; draft: Draft; undo: Undo }) {
  const { document } = draft
  const signals = document.signals ?? []
  const old = draft.baseline.filled_in.signals ?? []
  const fields = collection.fields
    .filter((field) => ['number', 'date', 'flag'].includes(field.kind))
    .map((field) => field.name)
  const isDate = (name: string) => collection.fields.find((field) => field.name === name)?.kind === 'date'
  const put = (i: number, changes: Partial<Signal>) => ({ ...document, signals: replaced(signals, i, changes) })
  return (
    <>
      {signals.map((signal, i) => (
        <OneSignal
          key={i}
          signal={signal}
          i={i}
          old={old}
          signals={signals}
          undo={undo}
          put={put}
          isDate={isDate}
          document={document}
        />
      ))}
      {fields.length === 0 ? (
        <p className="quiet small">No field of this collection holds numbers, dates or flags.</p>
      ) : (
        <Choice
          name="Add a signal"
          value=""
          choices={[['', 'choose a field'], ...fields.map((field) => [field, field] as const)]}
          onChoose={(field) => field !== '' && undo.commit({ ...document, signals: [...signals, newSignal(field)] })}
        />
      )}
    </>
  )
}

function OneSignal({
  signal,
  i,
  old,
  signals,
  undo,
  put,
  isDate,
  document,
}: {
  signal: Signal
  i: number
  old: Signal[]
  signals: Signal[]
  undo: Undo
  put: (i: number, changes: Partial<Signal>) => RankerDocument
  isDate: (name: string) => boolean
  document: RankerDocument
}) {
  return (
    <div className="pb-3">
      <NumberKnob
        name={`Weight of signal ${signal.field}`}
        label={
          <span className="flex items-center gap-2 font-semibold">
            <span
              aria-hidden
              className="h-[11px] w-[11px] shrink-0 border border-base-300"
              style={{ background: sourceShade({ kind: 'signal', number: i }) }}
            />
            {signal.field}
          </span>
        }
        value={signal.weight ?? 1}
        was={old.length === signals.length ? old[i]?.weight : undefined}
        least={-1_000_000}
        reachDown={Math.min(0, 2 * (signal.weight ?? 1))}
        most={1_000_000}
        reach={Math.max(5, 2 * (old[i]?.weight ?? 1))}
        step={0.1}
        put={(weight) => put(i, { weight })}
        undo={undo}
      />
      <div className="small border-l-2 border-base-300 pl-3">
        <PartKnobs
          part="Signal"
          of={signal.field}
          value={signal}
          was={old.length === signals.length ? old[i] : undefined}
          put={(changes) => put(i, changes)}
          undo={undo}
          own={['weight']}
        />
        {knob('Signal', 'scale').where?.says.includes(signal.shape) && (
          <p className="quiet">{scaleText(signal.shape, isDate(signal.field))}</p>
        )}
        {FRESH.includes(signal.shape) && (
          <TextKnob
            name={`Now, for ${signal.field}`}
            placeholder="now: the latest of all records"
            value={signal.now === null || signal.now === undefined ? '' : String(signal.now)}
            fits={(text) => text.trim() === '' || /^\d{4}(-\d\d){0,2}$|^-?\d+(\.\d+)?$/.test(text.trim())}
            onText={(text) => undo.commit(put(i, { now: nowOf(text, isDate(signal.field)) }))}
          />
        )}
        <button
          type="button"
          className="link"
          onClick={() => undo.commit({ ...document, signals: without(signals, i) })}
        >
          take it out
        </button>
      </div>
    </div>
  )
}

// What the scale of a shape means.
function scaleText(shape: string, isDate: boolean) {
  const unit = FRESH.includes(shape) && isDate ? ', in days' : ''
  return `scale: ${shape === 'linear' ? 'gone after' : FRESH.includes(shape) ? 'half after' : 'bends at'} so much${unit}`
}

function nowOf(text: string, isDate: boolean): number | string | null {
  const now = text.trim()
  if (now === '') return null
  // 1990 is a year in a field of dates, and a number in a field of numbers.
  return !isDate && /^-?\d+(\.\d+)?$/.test(now) ? Number(now) : now
}

// Signals: numbers known of a record before any query.
import type { Collection } from '../../api/queries'
import type { Draft } from '../../shell/use-draft'
import { sourceShade } from '../../parts/source-bar'
import { newSignal, replaced, without, type Signal } from '../../thinking/ranker-parts'
import { Choice, NumberBox, NumberKnob, TextKnob } from './controls'
import type { Undo } from './use-undo'

const SHAPES = [
  ['log', 'logarithm'],
  ['saturation', 'saturation'],
  ['rank', 'rank among all'],
  ['value', 'the number itself'],
  ['flag', 'flag'],
  ['half_life', 'fresh: half-life'],
  ['linear', 'fresh: linear'],
  ['bell', 'fresh: bell'],
] as const

const FRESH = ['half_life', 'linear', 'bell']

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
        <div key={i} className="pb-3">
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
            onPreview={(weight) => undo.preview(put(i, { weight }))}
            onCommit={(weight) => undo.commit(put(i, { weight }))}
            onSettle={undo.settle}
          />
          <div className="small border-l-2 border-base-300 pl-3">
            <Choice
              name={`Shape of ${signal.field}`}
              label="shape"
              wide
              value={signal.shape}
              choices={SHAPES}
              onChoose={(shape) => undo.commit(put(i, { shape }))}
            />
            <Choice
              name={`How ${signal.field} counts`}
              label="counts"
              value={signal.how ?? 'add'}
              choices={[
                ['add', 'added'],
                ['multiply', 'multiplied'],
              ]}
              onChoose={(how) => undo.commit(put(i, { how }))}
            />
            {!['value', 'flag', 'rank'].includes(signal.shape) && (
              <label className="flex items-center justify-between py-[3px]">
                <span>
                  {signal.shape === 'linear' ? 'gone after' : FRESH.includes(signal.shape) ? 'half after' : 'bends at'}
                  {FRESH.includes(signal.shape) && (isDate(signal.field) ? ', in days' : '')}
                </span>
                <NumberBox
                  name={`Scale of ${signal.field}`}
                  value={signal.scale ?? 1}
                  moved={false}
                  least={0.000001}
                  most={1e12}
                  onValue={(scale) => undo.commit(put(i, { scale }))}
                />
              </label>
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

function nowOf(text: string, isDate: boolean): number | string | null {
  const now = text.trim()
  if (now === '') return null
  // 1990 is a year in a field of dates, and a number in a field of numbers.
  return !isDate && /^-?\d+(\.\d+)?$/.test(now) ? Number(now) : now
}

// The draft's knobs: for now each reading's weight. Beside a turned one, what it was.
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { putRanker, rankers, type Collection } from '../../api/queries'
import { useAddress } from '../../shell/address'
import type { Draft } from '../../shell/use-draft'
import { readingShade } from '../../parts/source-bar'
import { chainText, differences, MOST_WEIGHT, reachOf } from '../../thinking/draft'
import { weightText } from '../../thinking/figures'
import type { Undo } from './use-undo'

export function Knobs(props: { collection: Collection; draft: Draft; undo: Undo }) {
  const { collection, draft, undo } = props
  const { change } = useAddress()
  const readings = draft.baseline.filled_in.readings
  const turned = (i: number, weight: number) => draft.weights.map((old, j) => (i === j ? weight : old))
  return (
    <section aria-label="Knobs" className="line-r flex min-h-0 flex-col overflow-y-auto">
      <div className="line-b flex items-center justify-between px-4 py-2">
        <label className="flex min-w-0 items-baseline gap-2">
          <span className="quiet small">Baseline</span>
          <select
            aria-label="Baseline"
            className="min-w-0 bg-transparent font-semibold"
            value={`${draft.baseline.name}:${draft.baseline.version}`}
            onChange={(event) => change({ ranker: event.target.value, w: null, ch: null })}
          >
            {draft.kept.map((ranker) => (
              <option key={`${ranker.name}:${ranker.version}`} value={`${ranker.name}:${ranker.version}`}>
                {ranker.name} {ranker.version}
              </option>
            ))}
          </select>
        </label>
        <span className="flex">
          <button type="button" aria-label="Undo" title="Undo (Ctrl z)" className="btn btn-ghost btn-xs px-1.5" disabled={!undo.canUndo} onClick={undo.undo}>
            ↶
          </button>
          <button type="button" aria-label="Redo" title="Redo (Ctrl Shift z)" className="btn btn-ghost btn-xs px-1.5" disabled={!undo.canRedo} onClick={undo.redo}>
            ↷
          </button>
        </span>
      </div>
      <h2 className="heading quiet px-4 pt-3 pb-1">Weights of the readings</h2>
      {readings.map((reading, i) => {
        const weight = draft.weights[i] ?? reading.weight
        const moved = weight !== reading.weight
        const name = `Weight of ${reading.field}`
        return (
          <div key={`${i}${draft.baseline.name}${draft.baseline.version}`} className="px-4 py-2">
            <div className="flex items-center gap-2">
              <span aria-hidden className="h-[11px] w-[11px] shrink-0" style={{ background: readingShade(i) }} />
              <span className="min-w-0 flex-1 truncate font-semibold" title={reading.field}>
                {reading.field}
              </span>
              {moved && (
                <button
                  type="button"
                  className="quiet small"
                  title={`Back to ${reading.weight}`}
                  onClick={() => undo.commit(turned(i, reading.weight))}
                >
                  was {weightText(reading.weight)} ↺
                </button>
              )}
              <WeightBox name={name} weight={weight} moved={moved} onWeight={(next) => undo.commit(turned(i, next))} />
            </div>
            <input
              type="range"
              className="weight"
              data-moved={moved}
              aria-label={name}
              min={0}
              max={reachOf(reading.weight)}
              step={0.1}
              value={Math.min(weight, reachOf(reading.weight))}
              onChange={(event) => undo.preview(turned(i, Number(event.target.value)))}
              onPointerUp={undo.settle}
              onKeyUp={undo.settle}
              onBlur={undo.settle}
            />
            <p className="quiet truncate font-mono text-[12px]" title={chainText(draft.document.readings[i]?.chain ?? '')}>
              {chainText(draft.document.readings[i]?.chain ?? '')}
            </p>
          </div>
        )
      })}
      <div className="flex-1" />
      <KeepVersion collection={collection} draft={draft} />
    </section>
  )
}

function WeightBox(props: { name: string; weight: number; moved: boolean; onWeight: (weight: number) => void }) {
  const [typed, setTyped] = useState<string | null>(null)
  const settle = () => {
    const weight = Number(typed)
    if (typed !== null && typed.trim() !== '' && weight >= 0 && weight <= MOST_WEIGHT) props.onWeight(weight)
    setTyped(null)
  }
  return (
    <input
      aria-label={`${props.name}, as a number`}
      inputMode="decimal"
      className={`figure w-[52px] border-b border-base-300 bg-transparent ${props.moved ? 'font-semibold text-primary' : ''}`}
      value={typed ?? weightText(props.weight)}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={settle}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur()
        if (event.key === 'Escape') setTyped(null)
      }}
    />
  )
}

function KeepVersion({ collection, draft }: { collection: Collection; draft: Draft }) {
  const client = useQueryClient()
  const { change } = useAddress()
  const [note, setNote] = useState('')
  const [said, setSaid] = useState<string | null>(null)
  if (draft.isBaseline) {
    return <p className="quiet small line-t px-4 py-3">{said ?? 'Turn a weight to begin a draft.'}</p>
  }
  const changes = differences(draft.baseline.filled_in, draft.weights, draft.chains)
  const keep = async () => {
    try {
      const kept = await putRanker(collection.name, draft.baseline, draft.document, note.trim() || changes.join('; '))
      await client.invalidateQueries({ queryKey: rankers(collection.name).queryKey })
      change({ ranker: `${kept.name}:${kept.version}`, w: null, ch: null })
      setSaid(`Kept as ${kept.name} ${kept.version}.`)
      setNote('')
    } catch (error) {
      setSaid(error instanceof Error ? error.message : 'It could not be kept.')
    }
  }
  return (
    <form
      className="line-t flex flex-col gap-2 px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault()
        void keep()
      }}
    >
      <p className="small">
        <span className="quiet">Draft: </span>
        {changes.join('; ')}
      </p>
      <input
        aria-label="Why this version is kept"
        placeholder="Why, in a few words"
        maxLength={2000}
        className="input input-sm w-full border-base-300 bg-transparent"
        value={note}
        onChange={(event) => setNote(event.target.value)}
      />
      <button type="submit" className="btn btn-sm btn-primary">
        Keep as a new version
      </button>
      {said && <p className="small">{said}</p>}
    </form>
  )
}

// What has to hold before a version goes live, and for how long it is kept what visitors asked.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { putSettings, type Published } from '../../api/delivery'
import { judgedSets } from '../../api/judging'
import type { Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { FIELD, Labelled } from '../coming-in/form'

export function RulesForm({ collection, settings }: { collection: Collection; settings: Published['settings'] }) {
  const sets = useQuery(judgedSets(collection.name))
  const { busy, problem, act } = useDoing('delivery', collection.name)
  // What was turned here; what was not is as it is kept.
  const [turned, setTurned] = useState<Partial<Published['settings']>>({})
  const [kept, setKept] = useState(false)
  const wanted = { ...settings, ...turned }
  const turn = (change: Partial<Published['settings']>) => {
    setTurned({ ...turned, ...change })
    setKept(false)
  }
  return (
    <form
      aria-label="What has to hold"
      onSubmit={async (event) => {
        event.preventDefault()
        setKept(false)
        if ((await act(() => putSettings(collection.name, wanted))) === null) return
        setTurned({})
        setKept(true)
      }}
    >
      <Changing needs="own">
        <h2 className="heading quiet pb-1">What has to hold before a version goes live</h2>
        <Labelled label="Rules, one a line, such as “ndcg@10 may not drop more than 0.01”">
          <textarea
            dir="auto"
            rows={4}
            className="textarea textarea-sm w-full border-base-300 bg-transparent font-mono"
            spellCheck={false}
            maxLength={20_000}
            value={wanted.rules}
            onChange={(event) => turn({ rules: event.target.value })}
          />
        </Labelled>
        <Labelled label="Checked on the judged set">
          <select
            className={FIELD}
            value={wanted.judged_set ?? ''}
            onChange={(event) => turn({ judged_set: event.target.value || null })}
          >
            <option value="">none</option>
            {(sets.data ?? []).map((one) => (
              <option key={one.name} value={one.name}>
                {one.name}
              </option>
            ))}
          </select>
        </Labelled>
        <h2 className="heading quiet pt-3 pb-1">What visitors asked</h2>
        <Labelled label="Kept for so many days, then counted only">
          <input
            type="number"
            className={FIELD}
            min={1}
            max={3_650}
            required
            value={wanted.kept_days}
            onChange={(event) => turn({ kept_days: Number(event.target.value) })}
          />
        </Labelled>
        <button type="submit" className="btn btn-sm" disabled={busy}>
          Keep these
        </button>
        <span role="status" className="small pl-3">
          {kept && 'Kept.'}
        </span>
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

// The collection's past queries: what there is, another file in their place, or none.
import { useQuery } from '@tanstack/react-query'
import { dropPastQueries, loadPastQueries, pastQueries } from '../../api/completions'
import type { Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { useDoing } from '../../shell/use-doing'
import { countText } from '../../thinking/figures'
import { Changing } from '../../shell/changing'

export function PastQueriesBox({ collection }: { collection: Collection }) {
  const told = useQuery(pastQueries(collection.name))
  const { busy, problem, act } = useDoing('past queries', collection.name)
  const kept = told.data?.kept ?? null
  const load = (file: File) => act(async () => loadPastQueries(collection.name, file.name, await file.text()))
  return (
    <div className="small">
      {told.isSuccess && (
        <p className="quiet">
          {kept
            ? `${countText(kept.queries)} queries, asked ${countText(kept.asked)} times, from ${kept.source}, ${kept.loaded_at.slice(0, 10)}`
            : 'None is loaded. A file of lines, CSV or JSON Lines: the query and how often it was asked.'}
        </p>
      )}
      <div className="flex items-center gap-3 py-1">
        <Changing>
          <label className={`link cursor-pointer ${busy ? 'quiet' : ''}`}>
            {busy ? 'loading …' : kept ? 'load another' : 'load a file'}
            <input
              type="file"
              aria-label="Past queries file"
              className="sr-only"
              disabled={busy}
              onChange={(event) => {
                const file = event.target.files?.[0]
                event.target.value = ''
                if (file) void load(file)
              }}
            />
          </label>
          {kept && !busy && (
            <button
              type="button"
              className="link quiet"
              onClick={() => void act(() => dropPastQueries(collection.name))}
            >
              forget them
            </button>
          )}
        </Changing>
      </div>
      {problem && <ProblemNote error={problem} />}
    </div>
  )
}

// The diary: what was decided about rankers, and when the locked queries were opened; beside it the frozen runs.
import { TakeAway } from '../../parts/take-away'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { diaryOf, judgedSets, measureRun, runsOf, type KeptRun } from '../../api/judging'
import { MEASURES, type Collection } from '../../api/queries'
import { Empty, ProblemNote } from '../../parts/notes'
import { MEASURE_NAMES, measureText } from '../../thinking/figures'
import { useDoing } from '../../shell/use-doing'
import { Kept, Unanswered } from '../../parts/answered'

export function DiaryView({ collection, set }: { collection: Collection; set: string }) {
  const found = useQuery(diaryOf(collection.name))
  if (!found.data) return <Unanswered asked={[found]} what="the diary" />
  return (
    <Kept asked={[found]} what="the diary" className="h-full">
      <div className="panes grid h-full grid-cols-[minmax(0,1fr)_380px]">
        {found.data.length === 0 ? (
          <Empty title="Nothing in the diary yet">
            Decisions are written on the owner’s page. Each opening of the locked queries writes itself down.
          </Empty>
        ) : (
          <div className="min-h-0 overflow-y-auto">
            <p className="px-4 pt-1 text-right">
              <TakeAway
                what="the diary"
                file={`${collection.name}-diary`}
                rows={() => [
                  ['written', 'kind', 'title', 'text'],
                  ...found.data.map((one) => [one.written_at, one.kind, one.title, one.body]),
                ]}
              />
            </p>
            <ol className="long-list px-4 py-2" aria-label="Diary">
              {found.data.map((one) => (
                <li key={one.id} className="row-stack line-b grid grid-cols-[130px_90px_minmax(0,1fr)] gap-2 py-2">
                  <time className="quiet small" dateTime={one.written_at}>
                    {one.written_at.slice(0, 16).replace('T', ' ')}
                    {one.by_person && `, ${one.by_person}`}
                  </time>
                  <span className="quiet small">{one.kind}</span>
                  <span className="wrap-anywhere">
                    <b className="font-semibold">{one.title}</b> {one.body}
                    {Array.isArray(one.details.rankers) && one.kind === 'decision' && (
                      <span className="quiet small block">{one.details.rankers.join(' and ')}</span>
                    )}
                  </span>
                </li>
              ))}
            </ol>
          </div>
        )}
        <aside aria-label="Frozen runs" className="line-l min-h-0 overflow-y-auto px-4 py-3">
          <Runs collection={collection} set={set} />
        </aside>
      </div>
    </Kept>
  )
}

function Runs({ collection, set }: { collection: Collection; set: string }) {
  const found = useQuery(runsOf(collection.name, set))
  const sets = useQuery(judgedSets(collection.name))
  const newest = sets.data?.find((one) => one.name === set)?.revision ?? null
  const [revision, setRevision] = useState<number | null>(null)
  if (!found.data) return <Unanswered asked={[found]} what="the runs" />
  return (
    <Kept asked={[found]} what="the runs">
      <h2 className="heading quiet pb-1">Frozen runs of {set}</h2>
      <p className="quiet small pb-2">
        Lists as they were given. Measured again by the same revision they give the same digits.
      </p>
      {newest !== null && (
        <label className="small flex items-center gap-2 pb-2">
          <span className="quiet">grades of revision</span>
          <input
            aria-label="Revision"
            type="number"
            min={1}
            max={newest}
            className="input input-xs w-[80px] border-base-300 bg-transparent"
            value={revision ?? newest}
            onChange={(event) => setRevision(Number(event.target.value) || null)}
          />
        </label>
      )}
      <ul>
        {found.data.slice(0, 100).map((run) => (
          <RunLine key={`${run.id} ${revision}`} collection={collection} set={set} run={run} revision={revision} />
        ))}
      </ul>
    </Kept>
  )
}

function RunLine({
  collection,
  set,
  run,
  revision,
}: {
  collection: Collection
  set: string
  run: KeptRun
  revision: number | null
}) {
  const { busy, problem, act } = useDoing('measuring', collection.name)
  const [means, setMeans] = useState<Record<string, number> | null>(null)
  const name = run.outside ?? `${run.ranker}:${run.version}`
  return (
    <li className="line-b py-2" aria-label={`Run ${run.id}`}>
      <div className="flex items-baseline gap-2">
        <b className="min-w-0 flex-1 truncate font-semibold">{name}</b>
        <span className="quiet small">{run.created_at.slice(0, 16).replace('T', ' ')}</span>
        <button
          type="button"
          className="link small"
          disabled={busy}
          onClick={async () => {
            const done = await act(() => measureRun(collection.name, set, run.id, MEASURES, revision))
            if (done) setMeans(done.figures.measured.means)
          }}
        >
          measure again
        </button>
      </div>
      <p className="quiet small">
        run {run.id}, records revision {run.records_revision}, queries of revision {run.queries_revision}
      </p>
      {means && (
        <p className="small" data-testid={`again-${run.id}`}>
          {MEASURES.map((measure) => `${MEASURE_NAMES[measure]} ${measureText(means[measure])}`).join(', ')}
        </p>
      )}
      {problem && <ProblemNote error={problem} />}
    </li>
  )
}

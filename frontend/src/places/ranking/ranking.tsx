// Ranking: the draft's knobs on the left, its list in the middle, why on the right, and along the
// foot what the draft did to every judged query.
import { useQuery } from '@tanstack/react-query'
import { useCallback, useDeferredValue, useEffect } from 'react'
import { judgedSet, search, type Collection } from '../../api/queries'
import { Empty, Loading, ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { useDraft, useSetName, type Draft } from '../../shell/use-draft'
import { useMeter } from '../../shell/use-meter'
import { Knobs } from './knobs'
import { Results } from './results'
import { useUndo } from './use-undo'
import { WaterlineFoot } from './waterline-foot'
import { WhyPanel } from './why-panel'

const SHOWN = 20
// How far down the baseline's list a row's old rank is looked for.
const COMPARED = 200

export function Ranking({ collection }: { collection: Collection }) {
  const { draft, error, pending } = useDraft(collection)
  if (pending) return <Loading what="the rankers" />
  if (error) return <ProblemNote error={error} />
  if (!draft) {
    return (
      <Empty title="This collection has no ranker yet">
        Keep a first one: <code>./paleharbor ranker put {collection.name} first FILE</code>
      </Empty>
    )
  }
  return <Workbench collection={collection} draft={draft} />
}

function Workbench({ collection, draft }: { collection: Collection; draft: Draft }) {
  const { params, change } = useAddress()
  const set = useSetName(collection)
  const query = useDeferredValue(params.get('q') ?? '')
  const choice = useDeferredValue(draft.choice)
  const { meter } = useMeter(collection)
  const judged = useQuery({ ...judgedSet(collection.name, set ?? ''), enabled: set !== null })
  const list = useQuery({ ...search(collection.name, query, choice, SHOWN), enabled: query.trim() !== '' })
  const before = useQuery({
    ...search(collection.name, query, draft.baselineChoice, COMPARED),
    enabled: query.trim() !== '' && !draft.isBaseline,
  })
  const undo = useUndo(draft)

  // Nobody begins at an empty page: the first judged query that finds something is run.
  const first = judged.data?.queries.find((one) => (meter?.baseline.matched[one.query_id] ?? 0) > 0)
  const untouched = !params.has('q')
  useEffect(() => {
    if (untouched && first) change({ q: first.query })
  }, [untouched, first, change])

  const results = query.trim() === '' ? [] : (list.data?.results ?? [])
  const row = results.find((result) => result.key === params.get('row')) ?? results[0]
  const judgedQuery = judged.data?.queries.find((one) => one.query === query)

  const handle = useCallback(
    (event: KeyboardEvent) => {
      if (typing(event)) return
      const step = { j: 1, k: -1 }[event.key]
      if (step && !event.ctrlKey && !event.metaKey) {
        const next = results[results.findIndex((result) => result.key === row?.key) + step]
        if (next) change({ row: next.key })
      } else if (event.key === 'b' && !event.ctrlKey && !event.metaKey) undo.commit(draft.baseline.filled_in.readings.map((r) => r.weight))
      else if (event.key.toLowerCase() === 'z' && (event.ctrlKey || event.metaKey)) {
        event.preventDefault()
        if (event.shiftKey) undo.redo()
        else undo.undo()
      }
    },
    [results, row, change, undo, draft.baseline],
  )
  useKeys(handle)

  return (
    <div className="grid h-full grid-cols-[248px_minmax(0,1fr)_320px] grid-rows-[minmax(0,1fr)_auto]">
      <Knobs collection={collection} draft={draft} undo={undo} />
      <section aria-label="Results" className="min-h-0 overflow-y-auto">
        {query.trim() === '' ? (
          <Empty title="No query">
            Type one above (<kbd>/</kbd>), or open a judged query in Measures (<kbd>g m</kbd>).
          </Empty>
        ) : list.isError ? (
          <ProblemNote error={list.error} />
        ) : list.data ? (
          <Results
            collection={collection}
            draft={draft}
            answer={list.data}
            baseline={draft.isBaseline ? null : (before.data ?? null)}
            judged={judgedQuery ?? null}
            chosen={row?.key ?? null}
            onChoose={(key) => change({ row: key })}
          />
        ) : (
          <Loading what="the results" />
        )}
      </section>
      {row ? (
        <WhyPanel collection={collection} query={query} result={row} choice={choice} />
      ) : (
        <aside aria-label="Why" className="line-l quiet p-4">
          {query.trim() === '' ? 'Choose a row to see its arithmetic.' : 'No row, so nothing to explain.'}
        </aside>
      )}
      <WaterlineFoot meter={meter} queries={judged.data?.queries ?? []} open={judgedQuery?.query_id ?? null} isBaseline={draft.isBaseline} />
    </div>
  )
}

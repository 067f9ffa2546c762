// Ranking: the draft's knobs on the left, its list in the middle, why on the right, and along the
// foot what the draft did to every judged query.
import { useQuery } from '@tanstack/react-query'
import { useDeferredValue, useEffect, useMemo } from 'react'
import { judgedSet, search, type Collection, type Narrowing, type Result } from '../../api/queries'
import { Empty, Loading, ProblemNote } from '../../parts/notes'
import { MOST_BESIDE, parkedName, parsedBeside } from '../../thinking/beside'
import { draftParams } from '../../thinking/draft'
import { parsedFilters } from '../../thinking/ranker-parts'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { useDraft, useSetName, type Draft } from '../../shell/use-draft'
import { useMeter } from '../../shell/use-meter'
import { Knobs } from './knobs'
import { Results } from './results'
import { useUndo } from './use-undo'
import { ComplaintSheet } from './complaint-sheet'
import { WaterlineFoot } from './waterline-foot'
import { Aside } from './aside'
import { Beside } from './beside'
import { ListsView } from './lists-view'
import { ListBar, type Narrowed } from './list-bar'

const SHOWN = 20
// How far down the baseline's list a row's old rank is looked for.
const COMPARED = 200
const DEEPEST = 10_000

const standIn = (key: string): Result => ({
  key,
  rank: 0,
  score: 0,
  source_scores: [],
  marks: {},
  field_values: {},
  pinned: false,
  others: 0,
  ranks: [],
  passage: null,
})

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
  const { meter, error } = useMeter(collection)
  const judged = useQuery({ ...judgedSet(collection.name, set ?? ''), enabled: set !== null })
  const [f, facetsParam, sort] = [params.get('f'), params.get('facets'), params.get('sort')]
  const skip = Math.max(0, Math.min(DEEPEST, Math.floor(Number(params.get('skip'))) || 0))
  const narrowed = useMemo(
    (): Narrowed => ({ filters: parsedFilters(f), facets: facetsParam?.split(',').filter(Boolean) ?? [], sort }),
    [f, facetsParam, sort],
  )
  const narrowing = useMemo(
    (): Narrowing => ({
      filters: narrowed.filters,
      sort: sort ? [sort] : [],
      facets: narrowed.facets.map((field) => ({ field, most: 40 })),
      skip,
    }),
    [narrowed, sort, skip],
  )
  const asks = query.trim() !== '' || narrowed.filters.length > 0
  const list = useQuery({ ...search(collection.name, query, choice, SHOWN, narrowing), enabled: asks })
  const before = useQuery({
    ...search(collection.name, query, draft.baselineChoice, COMPARED, {
      filters: narrowed.filters,
      sort: sort ? [sort] : [],
    }),
    enabled: asks && !draft.isBaseline,
  })
  const beside = parsedBeside(params.get('beside'))
  const narrow = (changes: Partial<Narrowed>) => {
    const next = { ...narrowed, ...changes }
    change({
      f: next.filters.length ? JSON.stringify(next.filters) : null,
      facets: next.facets.join(',') || null,
      sort: next.sort,
      skip: null,
    })
  }
  const undo = useUndo(draft)
  const asksSpaces = (draft.document.spaces ?? []).length > 0
  const inLists = asksSpaces && params.get('lists') !== null
  const turnLists = () => change({ lists: params.get('lists') === null ? 'yes' : null })

  // Nobody begins at an empty page: the first judged query that finds something is run.
  const first = judged.data?.queries.find((one) => (meter?.baseline.matched[one.query_id] ?? 0) > 0)
  const untouched = !params.has('q')
  useEffect(() => {
    if (untouched && first) change({ q: first.query })
  }, [untouched, first, change])

  const results = useMemo(() => (asks ? (list.data?.results ?? []) : []), [asks, list.data])
  const wanted = params.get('row')
  // Side by side, rows stand that the blended page does not hold: they can be asked about as well.
  const row = results.find((result) => result.key === wanted) ?? (inLists && wanted ? standIn(wanted) : results[0])
  const judgedQuery = judged.data?.queries.find((one) => one.query === query)

  const park = () => {
    const entry = draft.isBaseline
      ? `${draft.baseline.name}:${draft.baseline.version}`
      : parkedName(draft.baseline, draftParams(draft.baseline.filled_in, draft.document))
    change({
      beside: [...parsedBeside(params.get('beside')).filter((one) => one !== entry), entry]
        .slice(-MOST_BESIDE)
        .join(' '),
    })
  }

  const handle = (event: KeyboardEvent) => {
    if (typing(event)) return
    const step = { j: 1, k: -1 }[event.key]
    if (step && !event.ctrlKey && !event.metaKey) {
      const next = results[results.findIndex((result) => result.key === row?.key) + step]
      if (next) change({ row: next.key })
    } else if (event.key === 'b' && !event.ctrlKey && !event.metaKey) undo.commit(draft.baseline.filled_in)
    else if (event.key === 'n' && !event.ctrlKey && !event.metaKey) {
      event.preventDefault()
      change({ tab: 'not' })
    } else if (event.key === 'y' && !event.ctrlKey && !event.metaKey) change({ tab: null })
    else if (event.key === 'v' && !event.ctrlKey && !event.metaKey) change({ tab: 'versions' })
    else if (event.key === 'l' && !event.ctrlKey && !event.metaKey && asksSpaces) turnLists()
    else if (event.key === 'p' && !event.ctrlKey && !event.metaKey) park()
    else if (event.key === 'c' && !event.ctrlKey && !event.metaKey) {
      event.preventDefault()
      change({ complaint: 'yes' })
    } else if (event.key.toLowerCase() === 'z' && (event.ctrlKey || event.metaKey)) {
      event.preventDefault()
      if (event.shiftKey) undo.redo()
      else undo.undo()
    }
  }
  useKeys(handle)

  return (
    <div className="grid h-full grid-cols-[256px_minmax(0,1fr)_330px] grid-rows-[minmax(0,1fr)_auto]">
      <Knobs collection={collection} draft={draft} undo={undo} query={query} row={row?.key ?? null} />
      <section aria-label="Results" className="min-h-0 overflow-y-auto">
        <ListBar
          collection={collection}
          answer={list.data ?? null}
          narrowed={narrowed}
          onNarrow={narrow}
          onPark={park}
          asksSpaces={asksSpaces}
          inLists={inLists}
          onLists={turnLists}
        />
        {!asks ? (
          <Empty title="No query">
            Type one above (<kbd>/</kbd>), or open a judged query in Measures (<kbd>g m</kbd>).
          </Empty>
        ) : list.isError ? (
          <ProblemNote error={list.error} />
        ) : inLists && query.trim() !== '' ? (
          <ListsView
            collection={collection}
            query={query}
            choice={choice}
            filters={narrowed.filters}
            judged={judgedQuery ?? null}
            chosen={row?.key ?? null}
            onChoose={(key) => change({ row: key })}
          />
        ) : list.data && beside.length > 0 ? (
          <Beside
            collection={collection}
            draft={draft}
            query={query}
            entries={beside}
            narrowing={narrowing}
            own={list.data}
            grades={judgedQuery?.grades ?? null}
            chosen={row?.key ?? null}
            onChoose={(key) => change({ row: key })}
          />
        ) : list.data ? (
          <Results
            collection={collection}
            draft={draft}
            answer={list.data}
            baseline={draft.isBaseline ? null : (before.data ?? null)}
            judged={judgedQuery ?? null}
            chosen={row?.key ?? null}
            onChoose={(key) => change({ row: key })}
            filtered={narrowed.filters.length > 0}
            skip={skip}
            page={SHOWN}
            onSkip={(next) => change({ skip: next ? String(next) : null, row: null }, false)}
          />
        ) : (
          <Loading what="the results" />
        )}
      </section>
      <Aside
        collection={collection}
        draft={draft}
        undo={undo}
        query={query}
        row={row ?? null}
        results={results}
        choice={choice}
        filters={narrowed.filters}
      />
      {params.get('complaint') !== null && (
        <ComplaintSheet
          collection={collection}
          set={set}
          query={query}
          record={params.get('tab') === 'not' ? (params.get('key') ?? '') : (row?.key ?? '')}
          filters={narrowed.filters}
          onClose={() => change({ complaint: null })}
        />
      )}
      <WaterlineFoot
        meter={meter}
        error={error}
        queries={judged.data?.queries ?? []}
        open={judgedQuery?.query_id ?? null}
        isBaseline={draft.isBaseline}
      />
    </div>
  )
}

// What the Ranking place shows: the draft's list and the baseline's, what they are narrowed to, the row in view.
import { useQuery } from '@tanstack/react-query'
import { useEffect, useMemo } from 'react'
import { judgedSet, search, type Collection, type Narrowing, type Result } from '../../api/queries'
import { useAddress } from '../../shell/address'
import { useSetName, type Draft } from '../../shell/use-draft'
import { useMeter } from '../../shell/use-meter'
import { MOST_BESIDE, parkedName, parsedBeside } from '../../thinking/beside'
import { askedAs, isSameQuery } from '../../thinking/judging'
import { draftParam } from '../../thinking/draft'
import { letterAt, lettersOf, typedAt } from '../../thinking/letters'
import { parsedFilters } from '../../thinking/ranker-parts'
import { SHORT } from '../../thinking/marks'
import type { Narrowed } from './list-bar'

export const SHOWN = 20
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
  passages: [],
  second: null,
})

// What the list is narrowed to, as the address says; language: of a judged query.
function useNarrowing(language: string | null, typed: boolean) {
  const { params } = useAddress()
  const [f, facetsParam, sort] = [params.get('f'), params.get('facets'), params.get('sort')]
  const skip = Math.max(0, Math.min(DEEPEST, Math.floor(Number(params.get('skip'))) || 0))
  const narrowed = useMemo(
    (): Narrowed => ({ filters: parsedFilters(f), facets: facetsParam?.split(',').filter(Boolean) ?? [], sort }),
    [f, facetsParam, sort],
  )
  const narrowing: Narrowing = {
    filters: narrowed.filters,
    sort: sort ? [sort] : [],
    facets: narrowed.facets.map((field) => ({ field, most: 40 })),
    skip,
    language,
    typed,
    // Of this very query alone: another one is corrected again.
    as_said: params.get('as_said') === (params.get('q') ?? ''),
    passages: { length: SHORT, most: 1 },
  }
  return { narrowed, narrowing, sort, skip }
}

export type RankingShown = ReturnType<typeof useRanking>

export function useRanking(collection: Collection, draft: Draft) {
  const { params, change } = useAddress()
  const set = useSetName(collection)
  const whole = params.get('q') ?? ''
  // Played letter by letter, the list is that of what is typed so far.
  const typed = params.get('typed') !== null
  const at = letterAt(params.get('at'), lettersOf(whole).length)
  const query = typed ? typedAt(whole, at) : whole
  const { choice } = draft
  const { meter, asked } = useMeter(collection)
  const judged = useQuery({ ...judgedSet(collection.name, set ?? ''), enabled: set !== null })
  const judgedQuery = judged.data?.queries.find((one) => isSameQuery(one.query, whole))
  const language = judgedQuery?.language ?? null
  const { narrowed, narrowing, sort, skip } = useNarrowing(language, typed)
  const asks = query.trim() !== '' || narrowed.filters.length > 0
  const list = useQuery({ ...search(collection.name, query, choice, SHOWN, narrowing), enabled: asks })
  const before = useQuery({
    ...search(collection.name, query, draft.baselineChoice, COMPARED, {
      filters: narrowed.filters,
      sort: sort ? [sort] : [],
      language,
      typed,
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
  const asksSpaces = (draft.document.spaces ?? []).length > 0
  const inLists = asksSpaces && params.get('lists') !== null
  const turnLists = () => change({ lists: params.get('lists') === null ? 'yes' : null })

  // Nobody begins at an empty page: the first judged query that finds something is run.
  const first = judged.data?.queries.find((one) => (meter?.baseline.figures.matched[one.query_id] ?? 0) > 0)
  const untouched = !params.has('q')
  useEffect(() => {
    if (untouched && first) change(askedAs(first))
  }, [untouched, first, change])

  const results = useMemo(() => (asks ? (list.data?.results ?? []) : []), [asks, list.data])
  const wanted = params.get('row')
  // Side by side, rows stand that the blended page does not hold: they can be asked about as well.
  const row = results.find((result) => result.key === wanted) ?? (inLists && wanted ? standIn(wanted) : results[0])

  const park = () => {
    const entry = draft.isBaseline
      ? `${draft.baseline.name}:${draft.baseline.version}`
      : parkedName(draft.baseline, draftParam(draft.baseline.filled_in, draft.document))
    change({
      beside: [...parsedBeside(params.get('beside')).filter((one) => one !== entry), entry]
        .slice(-MOST_BESIDE)
        .join(' '),
    })
  }

  return {
    // A stroke is a query: without the set's queries it has no name.
    ...{ meter: judged.data ? meter : null, asked: judged.data ? asked : [...asked, judged] },
    ...{ whole, typed, at },
    ...{ set, query, choice, narrowed, narrowing, narrow, skip, asks, asksSpaces, inLists, turnLists },
    ...{
      list,
      before,
      beside,
      results,
      row: row ?? null,
      queries: judged.data?.queries ?? [],
      judgedQuery,
      language,
      park,
    },
  }
}

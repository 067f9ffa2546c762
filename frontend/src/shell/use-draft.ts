// The baseline and the draft: a kept ranker, and the same with some parts changed.
import { useQuery } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'
import { rankers, type Collection, type Ranker, type RankerChoice, type RankerDocument } from '../api/queries'
import { usualSet } from '../thinking/judged-sets'
import { draftDocument, draftParam, weightsOf } from '../thinking/draft'
import { useAddress } from './address'
import { letGo } from './draft-keeping'

export type Draft = {
  // Whose collection's.
  collection: string
  baseline: Ranker
  kept: Ranker[]
  weights: number[]
  document: RankerDocument
  isBaseline: boolean
  choice: RankerChoice
  baselineChoice: RankerChoice
  // Changes the draft into this document.
  edit: (document: RankerDocument) => void
}

export const BASELINE_PARAMS = { d: null }

export function useDraft(collection: Collection): { draft: Draft | null; error: Error | null; pending: boolean } {
  const { params, change } = useAddress()
  const kept = useQuery(rankers(collection.name))
  const wanted = params.get('ranker')
  const d = params.get('d')
  const baseline = useMemo(() => {
    const all = kept.data ?? []
    return (
      all.find((ranker) => `${ranker.name}:${ranker.version}` === wanted) ??
      all.find((ranker) => ranker.name === (wanted ?? collection.default_ranker)) ??
      all[0]
    )
  }, [kept.data, wanted, collection.default_ranker])

  const edit = useCallback(
    (document: RankerDocument) => {
      if (!baseline) return
      const d = draftParam(baseline.filled_in, document)
      // Back at the baseline by somebody's hand: nothing is left to be offered again.
      if (d === null) letGo(collection.name)
      // Whoever opens the address stands on the same version, whatever was kept since.
      change({ d, ...(d === null ? {} : { ranker: `${baseline.name}:${baseline.version}` }) })
    },
    [baseline, change, collection.name],
  )

  const draft = useMemo((): Draft | null => {
    if (!baseline) return null
    const document = draftDocument(baseline.filled_in, d)
    const isBaseline = draftParam(baseline.filled_in, document) === null
    const baselineChoice = { name: baseline.name, version: baseline.version }
    const choice = isBaseline ? baselineChoice : { ...baselineChoice, document }
    return {
      collection: collection.name,
      baseline,
      kept: kept.data ?? [],
      weights: weightsOf(document),
      document,
      isBaseline,
      choice,
      baselineChoice,
      edit,
    }
  }, [collection.name, baseline, kept.data, d, edit])

  return { draft, error: kept.error, pending: kept.isPending }
}

// The judged set in view: the one in the address, else the collection's first.
export function useSetName(collection: Collection): string | null {
  const { params } = useAddress()
  const wanted = params.get('set')
  return collection.judged_sets.find((name) => name === wanted) ?? usualSet(collection.judged_sets)
}

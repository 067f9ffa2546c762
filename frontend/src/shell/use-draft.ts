// The baseline and the draft: a kept ranker, and the same with some parts changed.
import { useQuery } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'
import { rankers, type Collection, type Ranker, type RankerChoice, type RankerDocument } from '../api/queries'
import { chainsParam, draftDocument, draftParams, parsedChains, weightsOf, type OwnChains } from '../thinking/draft'
import { useAddress } from './address'

export type Draft = {
  baseline: Ranker
  kept: Ranker[]
  weights: number[]
  document: RankerDocument
  isBaseline: boolean
  choice: RankerChoice
  baselineChoice: RankerChoice
  // Changes the draft into this document.
  edit: (document: RankerDocument) => void
  // Chains that the draft reads instead of the baseline's.
  chains: OwnChains
  readThrough: (chains: OwnChains) => void
}

export const BASELINE_PARAMS = { w: null, ch: null, d: null }

export function useDraft(collection: Collection): { draft: Draft | null; error: Error | null; pending: boolean } {
  const { params, change } = useAddress()
  const kept = useQuery(rankers(collection.name))
  const wanted = params.get('ranker')
  const [w, ch, d] = [params.get('w'), params.get('ch'), params.get('d')]
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
      if (baseline) change(draftParams(baseline.filled_in, document))
    },
    [baseline, change],
  )

  const readThrough = useCallback((chains: OwnChains) => change({ ch: chainsParam(chains) }), [change])

  const draft = useMemo((): Draft | null => {
    if (!baseline) return null
    const document = draftDocument(baseline.filled_in, { w, ch, d })
    const written = draftParams(baseline.filled_in, document)
    const isBaseline = written.w === null && written.ch === null && written.d === null
    const baselineChoice = { name: baseline.name, version: baseline.version }
    const choice = isBaseline ? baselineChoice : { ...baselineChoice, document }
    return {
      baseline,
      kept: kept.data ?? [],
      weights: weightsOf(document),
      document,
      isBaseline,
      choice,
      baselineChoice,
      edit,
      chains: parsedChains(ch, document.readings.length),
      readThrough,
    }
  }, [baseline, kept.data, w, ch, d, edit, readThrough])

  return { draft, error: kept.error, pending: kept.isPending }
}

// The judged set in view: the one in the address, else the collection's first.
export function useSetName(collection: Collection): string | null {
  const { params } = useAddress()
  const wanted = params.get('set')
  return collection.judged_sets.find((name) => name === wanted) ?? collection.judged_sets[0] ?? null
}

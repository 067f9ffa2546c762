// The baseline and the draft: a kept ranker, and the same with some weights turned.
import { useQuery } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'
import { rankers, type Collection, type Ranker, type RankerChoice, type RankerDocument } from '../api/queries'
import { chainsParam, parsedChains, parsedWeights, weightsOf, weightsParam, withChains, withWeights, type OwnChains } from '../thinking/draft'
import { useAddress } from './address'

export type Draft = {
  baseline: Ranker
  kept: Ranker[]
  weights: number[]
  document: RankerDocument
  isBaseline: boolean
  choice: RankerChoice
  baselineChoice: RankerChoice
  turn: (weights: readonly number[]) => void
  // Chains that the draft reads instead of the baseline's.
  chains: OwnChains
  readThrough: (chains: OwnChains) => void
}

export function useDraft(collection: Collection): { draft: Draft | null; error: Error | null; pending: boolean } {
  const { params, change } = useAddress()
  const kept = useQuery(rankers(collection.name))
  const wanted = params.get('ranker')
  const param = params.get('w')
  const chainsOf = params.get('ch')
  const baseline = useMemo(() => {
    const all = kept.data ?? []
    return (
      all.find((ranker) => `${ranker.name}:${ranker.version}` === wanted) ??
      all.find((ranker) => ranker.name === (wanted ?? collection.default_ranker)) ??
      all[0]
    )
  }, [kept.data, wanted, collection.default_ranker])

  const turn = useCallback(
    (weights: readonly number[]) => {
      if (baseline) change({ w: weightsParam(weightsOf(baseline.filled_in), weights) })
    },
    [baseline, change],
  )

  const readThrough = useCallback((chains: OwnChains) => change({ ch: chainsParam(chains) }), [change])

  const draft = useMemo((): Draft | null => {
    if (!baseline) return null
    const own = weightsOf(baseline.filled_in)
    const weights = parsedWeights(param, own)
    const chains = parsedChains(chainsOf, own.length)
    const isBaseline = weightsParam(own, weights) === null && chainsParam(chains) === null
    const document = withChains(withWeights(baseline.filled_in, weights), chains)
    const baselineChoice = { name: baseline.name, version: baseline.version }
    const choice = isBaseline ? baselineChoice : { ...baselineChoice, document }
    return { baseline, kept: kept.data ?? [], weights, document, isBaseline, choice, baselineChoice, turn, chains, readThrough }
  }, [baseline, kept.data, param, chainsOf, turn, readThrough])

  return { draft, error: kept.error, pending: kept.isPending }
}

// The judged set in view: the one in the address, else the collection's first.
export function useSetName(collection: Collection): string | null {
  const { params } = useAddress()
  const wanted = params.get('set')
  return collection.judged_sets.find((name) => name === wanted) ?? collection.judged_sets[0] ?? null
}

// The two rankers that are compared: as the address says, else the baseline and the next.
import { useQuery } from '@tanstack/react-query'
import { outsideRankers, type Pair } from '../../api/comparing'
import type { Collection } from '../../api/queries'
import { useAddress } from '../../shell/address'
import { useDraft } from '../../shell/use-draft'
import { parsedHow } from '../../thinking/how'
import { pairOfSides, sidesThere } from '../../thinking/sides'

export function usePair(collection: Collection, set: string) {
  const { params } = useAddress()
  const { draft } = useDraft(collection)
  const outside = useQuery(outsideRankers(collection.name))
  const there = outside.isSuccess ? sidesThere(draft, outside.data, set) : []
  const chosen = pairOfSides(there, params.get('first'), params.get('second'))
  const measure = params.get('measure') ?? 'ndcg@10'
  const pair: Pair | null = chosen && {
    first: chosen[0].side,
    second: chosen[1].side,
    measure,
    how: { ...parsedHow(params.get('rules')), part: 'open', bands: true },
  }
  return { there, chosen, pair, measure, outside, ready: draft !== null && outside.isSuccess }
}

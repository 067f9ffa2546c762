// Opens a query in Ranking with the lists of both rankers side by side.
import { useCallback } from 'react'
import { useNavigate } from 'react-router'
import type { Collection } from '../../api/queries'
import { useAddress } from '../../shell/address'
import { openedPair } from '../../thinking/opened-pair'
import type { NamedSide } from '../../thinking/sides'

export function useOpening(collection: Collection, sides: [NamedSide, NamedSide]) {
  const { params } = useAddress()
  const navigate = useNavigate()
  return useCallback(
    (query: string) =>
      navigate(`/${collection.name}/ranking?${openedPair(params, sides[0].name, sides[1].name, query)}`),
    [collection.name, navigate, params, sides],
  )
}

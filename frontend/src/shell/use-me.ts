// Who is here, and what they may do with a collection. Until that is known nothing is kept from anybody: the server
// refuses what it has to.
import { useQuery } from '@tanstack/react-query'
import { me } from '../api/people'
import { rightsIn, type Rights } from '../thinking/people'

const ALL: Rights = { look: true, change: true, own: true, keep: true, make: true }

export function useRights(collection: string | undefined): Rights {
  const found = useQuery(me())
  return found.data && collection !== undefined ? rightsIn(found.data, collection) : ALL
}

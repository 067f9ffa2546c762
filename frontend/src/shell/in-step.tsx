// On the strip: whether the records are those of the database that they follow. Nothing where they follow none.
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { following } from '../api/following'
import { isWell, standingText, stripText } from '../thinking/following'
import { carried, useAddress } from './address'
import { useRights } from './use-me'

export function InStep({ collection }: { collection: string }) {
  const { look } = useRights(collection)
  const found = useQuery({ ...following(collection), enabled: look })
  const { params } = useAddress()
  const now = found.data
  if (!now) return null
  const well = isWell(now.standing)
  return (
    <Link
      role="status"
      aria-label={`Following: ${stripText(now)}`}
      to={`/${collection}/records${carried(params, { view: 'following' })}`}
      title={now.problem || standingText(now)}
      className={`small whitespace-nowrap no-underline hover:underline ${well ? 'quiet' : 'loss'}`}
    >
      <span aria-hidden className={`mr-1 inline-block size-[7px] ${well ? 'bg-secondary' : 'rotate-45 bg-error'}`} />
      {stripText(now)}
    </Link>
  )
}

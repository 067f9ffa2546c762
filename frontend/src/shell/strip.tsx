// Across the top: the collection, the query that follows from place to place, the judged meter.
import type { RefObject } from 'react'
import { useNavigate } from 'react-router'
import type { Collection } from '../api/queries'
import { countText } from '../thinking/figures'
import { useAddress } from './address'
import { InStep } from './in-step'
import { JudgedMeter } from './judged-meter'
import { QueryBox } from './query-box'
import { useRights } from './use-me'
import { ROLE_SAYS } from '../thinking/people'

export function Strip(props: {
  collection: Collection
  all: Collection[]
  place: string
  queryBox: RefObject<HTMLInputElement | null>
}) {
  const { collection, all, place, queryBox } = props
  const { params, change } = useAddress()
  const navigate = useNavigate()
  const query = params.get('q') ?? ''

  return (
    <header className="line-b flex items-center gap-4 px-4">
      <select
        aria-label="Collection"
        className="boxed w-auto bg-transparent pr-8 text-[15px] font-semibold"
        title={`${countText(collection.records)} records`}
        value={collection.name}
        onChange={(event) => navigate(`/${event.target.value}/${place}`)}
      >
        {all.map((one) => (
          <option key={one.name} value={one.name}>
            {one.name}
          </option>
        ))}
      </select>
      <OwnRole collection={collection.name} />
      <InStep collection={collection.name} />
      <form
        role="search"
        className="relative max-w-[560px] min-w-0 flex-1"
        onSubmit={(event) => {
          event.preventDefault()
          change({ q: query, row: null, skip: null, at: null }, false)
        }}
      >
        <QueryBox collection={collection} place={place} queryBox={queryBox} />
      </form>
      <JudgedMeter collection={collection} />
    </header>
  )
}

// Said to whoever looks only: so much of the page cannot be pressed by them.
function OwnRole({ collection }: { collection: string }) {
  const { look, change } = useRights(collection)
  if (change || !look) return null
  return (
    <span className="quiet small max-sm:hidden" title={`A reader ${ROLE_SAYS.reader}`}>
      reader
    </span>
  )
}

// Who changed what in the collection, for keepers in all of the installation too, the newest first; narrowed by person
// and words, taken along as a file.
import { useInfiniteQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { changesFile, changesOf, type NotedChange } from '../../api/people'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { usePaused } from '../../parts/use-paused'
import { rightsIn } from '../../thinking/people'
import { whenText } from '../../thinking/revisions'
import { FIELD } from '../coming-in/form'
import type { PeopleProps } from './people-props'

const AT_ONCE = 200
const PAUSE_MS = 300

export function ChangesView({ collection, me }: PeopleProps) {
  const { params, change } = useAddress()
  const person = params.get('by') ?? ''
  const mayLookEverywhere = rightsIn(me, collection.name).keep
  const everywhere = mayLookEverywhere && params.get('in') === 'all'
  const of = everywhere ? null : collection.name
  const [text, setText] = useState('')
  const asked = { person, text: usePaused(text.trim(), PAUSE_MS) }
  const found = useInfiniteQuery({
    queryKey: ['people', 'changes', of, asked],
    queryFn: ({ pageParam }) => changesOf(of, asked, pageParam),
    initialPageParam: null as number | null,
    getNextPageParam: (last: NotedChange[]) => (last.length < AT_ONCE ? undefined : last.at(-1)?.id),
  })
  const shown = found.data?.pages.flat() ?? []
  return (
    <section aria-label="Changes">
      <Narrowing
        person={person}
        text={text}
        onText={setText}
        everywhere={mayLookEverywhere ? everywhere : null}
        file={changesFile(of, asked)}
      />
      {found.isError && <ProblemNote error={found.error} />}
      <div className="overflow-x-auto">
        <table aria-label="Changes" className="w-full min-w-[720px] border-collapse text-left">
          <tbody>
            {shown.map((one) => (
              <tr key={one.id} className="line-b">
                <td className="quiet small w-[150px] py-2 pr-2 pl-4 whitespace-nowrap">
                  <time dateTime={one.at}>{whenText(one.at)}</time>
                </td>
                <td className="w-[190px] max-w-[190px] truncate px-2">
                  {one.person === null ? (
                    <span className="quiet">at this machine</span>
                  ) : (
                    <button
                      type="button"
                      className="link max-w-full truncate no-underline hover:underline"
                      title={`What ${one.person} changed`}
                      onClick={() => change({ by: one.person })}
                    >
                      {one.person}
                    </button>
                  )}
                </td>
                {everywhere && <td className="w-[150px] max-w-[150px] truncate px-2">{one.collection}</td>}
                <td className="px-2">
                  {one.what} <code className="text-[13px] wrap-anywhere">{one.about}</code>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {found.isSuccess && shown.length === 0 && (
        <p className="quiet px-4 py-3">
          {person || asked.text
            ? 'No change is like this.'
            : `Nothing was changed ${everywhere ? 'anywhere' : 'here'} since changes are noted.`}
        </p>
      )}
      {found.hasNextPage && (
        <button
          type="button"
          className="btn btn-ghost btn-sm m-3"
          disabled={found.isFetching}
          onClick={() => void found.fetchNextPage()}
        >
          {found.isFetching ? 'Fetching …' : 'Older ones'}
        </button>
      )}
    </section>
  )
}

// everywhere: null where only the collection may be looked at.
type NarrowingProps = {
  person: string
  text: string
  onText: (text: string) => void
  everywhere: boolean | null
  file: string
}

function Narrowing({ person, text, onText, everywhere, file }: NarrowingProps) {
  const { change } = useAddress()
  return (
    <div className="line-b flex flex-wrap items-end gap-3 px-4 py-3">
      <label className="block w-[240px]">
        <span className="quiet small mb-1 block">With these words</span>
        <input dir="auto" className={FIELD} value={text} onChange={(event) => onText(event.target.value)} />
      </label>
      {everywhere !== null && (
        <label className="flex min-h-6 items-center gap-2 pb-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={everywhere}
            onChange={(event) => change({ in: event.target.checked ? 'all' : null })}
          />
          in all of the installation
        </label>
      )}
      {person && (
        <button type="button" className="link small pb-2" onClick={() => change({ by: null })}>
          by {person} alone; show everybody
        </button>
      )}
      <a className="link small ml-auto pb-2" href={file} download>
        Save as CSV
      </a>
    </div>
  )
}

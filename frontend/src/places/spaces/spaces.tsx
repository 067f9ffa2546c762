// Spaces: where vectors come from, how far they are, and what lies near what.
import { useQuery } from '@tanstack/react-query'
import type { Collection } from '../../api/queries'
import { spaces, type Space } from '../../api/spaces'
import { Empty } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { fillingOf, sourceName } from '../../thinking/spaces'
import { NewSpace } from './new-space'
import { SpacePanel } from './space-panel'
import { Kept, Unanswered } from '../../parts/answered'
import { Changing } from '../../shell/changing'

export function Spaces({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const found = useQuery(spaces(collection.name))
  const all = found.data ?? []
  const here = all.find((space) => space.name === params.get('space')) ?? all[0]
  const making = params.get('new') !== null
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
    const step = { j: 1, k: -1 }[event.key]
    const next = step ? all[all.findIndex((space) => space.name === here?.name) + step] : undefined
    if (next) change({ space: next.name, new: null })
    if (event.key === 'n') {
      event.preventDefault()
      change({ new: 'yes' })
    }
  })
  if (!found.data) return <Unanswered asked={[found]} what="the spaces" />
  return (
    <Kept asked={[found]} what="the spaces" className="h-full">
      <div className="panes grid h-full grid-cols-[256px_minmax(0,1fr)]">
        <section aria-label="Spaces" className="line-r flex min-h-0 flex-col overflow-y-auto">
          <h2 className="heading quiet px-4 pt-3 pb-1">Spaces of vectors</h2>
          <ul>
            {all.map((space) => (
              <SpaceLine
                key={space.name}
                space={space}
                here={!making && space.name === here?.name}
                onOpen={() => change({ space: space.name, new: null }, false)}
              />
            ))}
          </ul>
          <div className="px-4 py-3">
            <Changing>
              <button
                type="button"
                className="btn btn-sm"
                title="Make a space (n)"
                onClick={() => change({ new: 'yes' }, false)}
              >
                Make a space
              </button>
            </Changing>
          </div>
        </section>
        <div className="min-h-0 overflow-y-auto">
          {making ? (
            <NewSpace collection={collection} known={all.map((space) => space.name)} />
          ) : here ? (
            <SpacePanel key={here.name} collection={collection} space={here} />
          ) : (
            <Empty title="No space of vectors yet">
              A space lays every record where its meaning is, so that a query finds what shares no word with it. Make
              one with the packaged word vectors (<kbd>n</kbd>): that takes seconds, and nothing leaves this machine.
            </Empty>
          )}
        </div>
      </div>
    </Kept>
  )
}

function SpaceLine({ space, here, onOpen }: { space: Space; here: boolean; onOpen: () => void }) {
  const filling = fillingOf(space)
  return (
    <li>
      <button
        type="button"
        aria-current={here ? 'true' : undefined}
        className={`w-full cursor-pointer border-l-[3px] px-4 py-2 text-left ${here ? 'border-primary bg-base-200' : 'border-transparent hover:bg-base-200/60'}`}
        onClick={onOpen}
      >
        <b className="block truncate font-semibold">{space.name}</b>
        <span className="quiet small block">{sourceName(space.document.source.kind)}</span>
        <span className={`small line-clamp-2 ${filling.wrong ? 'loss' : 'quiet'}`}>{filling.text}</span>
      </button>
    </li>
  )
}

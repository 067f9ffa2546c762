// How a collection is to follow a database: by which connection, which query, in which way. Nothing is followed before
// its first rows, its plan and its price were seen.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { connections, draftQuery, follow, lookAtQuery, type Following, type Looked } from '../../api/following'
import type { Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { letGo, useHeld } from '../../parts/use-held'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { ConnectionPart } from './connection-part'
import { LookedPart } from './looked-part'
import { QueryPart } from './query-part'
import { documentOf, isChosen, lookOf, saidBefore, type Said } from './saying'
import { WaysPart } from './ways-part'

type Props = { collection: Collection; before: Following | null; onDone: () => void }

// What is said, and what is done with it.
function useSaying({ collection, before, onDone }: Props) {
  const held = `following ${collection.name}/`
  const [said, setSaid] = useHeld<Said>(`${held}said`, saidBefore(before))
  const [looked, setLooked] = useState<Looked | null>(null)
  const known = useQuery(connections(collection.name))
  const { busy, problem, act, forget } = useDoing('following', collection.name)
  const looking = useDoing(null)
  const say = (change: Partial<Said>, seen: Looked | null = null) => {
    setSaid((now) => ({ ...now, ...change }))
    setLooked(seen)
    looking.forget()
    forget()
  }
  const draft = (table: string, joins: string[] | null) => {
    // What was ticked stays ticked while the query is drafted.
    if (joins !== null) setSaid((now) => ({ ...now, joins }))
    return looking.act(() => draftQuery(collection.name, said.connection, table, joins), {
      then: ({ drafted, joins: chosen }) =>
        say({ table, joins: chosen, query: drafted.query, key: drafted.key, tables: drafted.tables }),
    })
  }
  const look = () =>
    looking.act(() => lookAtQuery(collection.name, said.connection, lookOf(said)), {
      then: (seen) => {
        setLooked(seen)
        const ready = seen.ways.find((one) => one.is_ready)
        if (ready && !seen.ways.some((one) => isChosen(said, one)))
          setSaid((now) => ({ ...now, way: ready.way, by: ready.by }))
      },
    })
  const begin = () =>
    act(() => follow(collection.name, documentOf(said, before)), {
      then: () => {
        letGo(held)
        onDone()
      },
    })
  const leave = () => {
    letGo(held)
    onDone()
  }
  return { said, looked, known, doing: { busy, problem }, looking, say, draft, look, begin, leave }
}

export function FollowForm(props: Props) {
  const { collection, before } = props
  const { said, looked, known, doing, looking, say, draft, look, begin, leave } = useSaying(props)
  const { busy, problem } = doing
  const chosen = looked?.ways.find((one) => isChosen(said, one))
  return (
    <div className="flex max-w-[1100px] flex-col gap-6 px-4 py-4">
      <Changing>
        {before === null && <Intro collection={collection} />}
        <ConnectionPart
          collection={collection.name}
          connections={known.data ?? []}
          chosen={said.connection}
          onChoose={(connection) => say({ connection })}
        />
        {said.connection && (
          <QueryPart
            collection={collection.name}
            isPostgreSQL={known.data?.find((one) => one.name === said.connection)?.document.kind === 'postgresql'}
            said={said}
            busy={looking.busy}
            onSay={say}
            onDraft={(table, joins) => void draft(table, joins)}
            onLook={() => void look()}
          />
        )}
        {looking.problem && <ProblemNote error={looking.problem} />}
        {looked && <LookedPart looked={looked} />}
        {looked && (
          <WaysPart
            looked={looked}
            said={said}
            busy={busy || looking.busy}
            onSay={(change) => say(change, looked)}
            onLook={() => void look()}
          />
        )}
        {problem && <ProblemNote error={problem} />}
        <div className="flex items-center gap-3">
          {looked && (
            <button
              type="button"
              className="btn btn-primary btn-sm"
              disabled={busy || !chosen?.is_ready || looked.problem !== ''}
              onClick={() => void begin()}
            >
              Follow it
            </button>
          )}
          {before !== null && (
            <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={leave}>
              Leave it as it is
            </button>
          )}
        </div>
      </Changing>
    </div>
  )
}

function Intro({ collection }: { collection: Collection }) {
  return (
    <p className="max-w-[75ch]">
      {collection.name} can be kept in step with a live database: its records become what a query gives there, and
      change as it does.
      {collection.records > 0 && (
        <b className="font-semibold">
          {' '}
          Records that are here and not in the query go, once you have agreed to how many.
        </b>
      )}
    </p>
  )
}

// Records that are named one by one, made into a judging task: who judges, and then the link. Judges see the name: it
// tells of no ranker.
import { useState } from 'react'
import { Link } from 'react-router'
import { here } from '../../api/base'
import type { Side } from '../../api/comparing'
import { makeTask, type TaskRequest } from '../../api/judging'
import type { Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { carried, useAddress } from '../../shell/address'
import { useDoing } from '../../shell/use-doing'
import { SamePeople, useSamePeople } from './same-people'
import { Changing } from '../../shell/changing'

type Items = NonNullable<TaskRequest['items']>

export function TaskOfRecords(props: {
  collection: Collection
  set: string
  name: string
  sides?: Side[]
  items: Items
}) {
  const { collection, set, name, items } = props
  const { params } = useAddress()
  const { busy, problem, act } = useDoing('judging', collection.name)
  const [judge, setJudge] = useState('')
  const people = useSamePeople(collection.name, set, [judge.trim()], problem?.message ?? '')
  const [made, setMade] = useState<{ path: string; count: number } | null>(null)
  if (made) {
    return (
      <p role="status" className="pt-2">
        {made.count} {made.count === 1 ? 'record is' : 'records are'} ready:{' '}
        <a className="link" href={here(made.path)} target="_blank" rel="noreferrer">
          judge them
        </a>
        , or send the link from{' '}
        <Link className="link" to={`/${collection.name}/judging${carried(params, { view: 'tasks' })}`}>
          Judging
        </Link>
        .
      </p>
    )
  }
  return (
    <form
      className="flex flex-wrap items-center gap-2 pt-2"
      onSubmit={async (event) => {
        event.preventDefault()
        const tasks = await act(() =>
          makeTask(collection.name, set, {
            name,
            judges: [judge],
            sides: props.sides ?? [],
            depth: 1,
            others: 0,
            twice: 0,
            leave_out_judged: false,
            items,
            same: people.same,
          }),
        )
        const path = tasks?.[0]?.judges[0]?.path
        if (path) setMade({ path, count: items.length })
      }}
    >
      <Changing>
        <input
          dir="auto"
          aria-label="Who judges"
          required
          maxLength={200}
          placeholder="who judges"
          className="input input-sm w-[150px] border-base-300 bg-transparent"
          value={judge}
          onChange={(event) => setJudge(event.target.value)}
        />
        <button type="submit" className="btn btn-sm" disabled={busy || judge.trim() === ''}>
          Make a task of {items.length}
        </button>
        <SamePeople {...people} />
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

// Has judges confirm what clicks suggest, without seeing it.
import { useState } from 'react'
import { Link } from 'react-router'
import { here } from '../../api/base'
import { confirmClicks } from '../../api/delivery'
import { linkOf } from '../../api/judging'
import type { Collection } from '../../api/queries'
import { Dialog } from '../../parts/dialog'
import { ProblemNote } from '../../parts/notes'
import { carried, useAddress } from '../../shell/address'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { FIELD, Labelled } from '../coming-in/form'
import { SamePeople, useSamePeople } from '../judging/same-people'

interface Props {
  collection: Collection
  set: string
  days: number
}

export function ConfirmingForm(props: Props) {
  const [open, setOpen] = useState(false)
  return (
    <Changing>
      <button type="button" className="btn btn-sm" onClick={() => setOpen(true)}>
        Have judges confirm
      </button>
      {open && (
        <Dialog label="Have judges confirm" className="w-[480px]" onClose={() => setOpen(false)}>
          <Form {...props} onLeave={() => setOpen(false)} />
        </Dialog>
      )}
    </Changing>
  )
}

function Form({ collection, set, days, onLeave }: Props & { onLeave: () => void }) {
  const { busy, problem, act } = useDoing('judging', collection.name)
  const [judge, setJudge] = useState('')
  const [name, setName] = useState('What visitors looked at')
  const [made, setMade] = useState<{ path: string; records: number } | null>(null)
  const people = useSamePeople(collection.name, set, [judge.trim()], problem?.message ?? '')
  if (made) return <Made collection={collection.name} {...made} />
  return (
    <form
      className="p-4"
      onSubmit={async (event) => {
        event.preventDefault()
        const body = { judged_set: set, name, judges: [judge], days, twice: 0, queries: null, same: people.same }
        const tasks = await act(() => confirmClicks(collection.name, body))
        const first = tasks?.[0]
        const own = first?.judges[0]
        const path = first && own && linkOf(first.id, own.judge)
        if (path) setMade({ path, records: own.items })
      }}
    >
      <p className="quiet pb-3">
        What clicks of the last {days === 1 ? 'day' : `${days} days`} suggest and nobody has graded becomes a task of{' '}
        <bdi>{set}</bdi>. Its queries come into the set where they are not in it. Judges do not see what is suggested:
        they would follow it.
      </p>
      <Labelled label="Who judges">
        <input
          dir="auto"
          className={FIELD}
          required
          autoFocus
          maxLength={200}
          value={judge}
          onChange={(event) => setJudge(event.target.value)}
        />
      </Labelled>
      <SamePeople {...people} />
      <Labelled label="Name of the task: judges see it">
        <input
          dir="auto"
          className={FIELD}
          required
          maxLength={200}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </Labelled>
      <div className="flex gap-3">
        <button type="submit" className="btn btn-sm btn-primary" disabled={busy || judge.trim() === ''}>
          Make the task
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={onLeave}>
          Leave it
        </button>
      </div>
      {problem && <ProblemNote error={problem} />}
    </form>
  )
}

function Made({ collection, path, records }: { collection: string; path: string; records: number }) {
  const { params } = useAddress()
  return (
    <p role="status" className="p-4">
      {records} {records === 1 ? 'record is' : 'records are'} ready:{' '}
      <a className="link" href={here(path)} target="_blank" rel="noreferrer">
        judge them
      </a>
      , or send the link from{' '}
      <Link className="link" to={`/${collection}/judging${carried(params, { view: 'tasks' })}`}>
        Judging
      </Link>
      .
    </p>
  )
}

// A sample of what is asked as a judged set: from the queries of every day to those asked once.
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { sampleToSet } from '../../api/delivery'
import type { Collection } from '../../api/queries'
import { Dialog } from '../../parts/dialog'
import { ProblemNote } from '../../parts/notes'
import { carried, useAddress } from '../../shell/address'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { FIELD, Labelled } from '../coming-in/form'

export function SampleForm({ collection, days }: { collection: Collection; days: number }) {
  const [open, setOpen] = useState(false)
  return (
    <Changing>
      <button type="button" className="btn btn-sm" onClick={() => setOpen(true)}>
        A judged set of a sample
      </button>
      {open && (
        <Dialog label="A judged set of a sample" className="w-[480px]" onClose={() => setOpen(false)}>
          <Form collection={collection} days={days} onLeave={() => setOpen(false)} />
        </Dialog>
      )}
    </Changing>
  )
}

function Form({ collection, days, onLeave }: { collection: Collection; days: number; onLeave: () => void }) {
  const navigate = useNavigate()
  const { params } = useAddress()
  const { busy, problem, act } = useDoing('judging', collection.name)
  const [name, setName] = useState('sample')
  const [count, setCount] = useState(100)
  return (
    <form
      className="p-4"
      onSubmit={(event) => {
        event.preventDefault()
        const body = { judged_set: name, days, count, seed: 1, locked_share: 0.2 }
        void act(() => sampleToSet(collection.name, body), {
          then: () => void navigate(`/${collection.name}/judging${carried(params, { set: name, view: 'queries' })}`),
        })
      }}
    >
      <p className="quiet pb-3">
        Drawn by how often they are asked in the last {days === 1 ? 'day' : `${days} days`}, as many of the head as of
        the middle and the tail. Measures weighted by how often queries are asked follow the whole traffic.
      </p>
      <Labelled label="Name: small letters, digits, - and _">
        <input
          dir="auto"
          className={FIELD}
          required
          autoFocus
          pattern="[a-z0-9][a-z0-9_\-]{0,62}"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </Labelled>
      <Labelled label="Queries">
        <input
          type="number"
          className={FIELD}
          min={1}
          max={5_000}
          required
          value={count}
          onChange={(event) => setCount(Number(event.target.value))}
        />
      </Labelled>
      <div className="flex gap-3">
        <button type="submit" className="btn btn-sm btn-primary" disabled={busy}>
          Draw it
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={onLeave}>
          Leave it
        </button>
      </div>
      {problem && <ProblemNote error={problem} />}
    </form>
  )
}

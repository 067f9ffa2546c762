// What visitors asked as the collection's past queries, which completions and corrections read.
import { useState } from 'react'
import { offerAsked } from '../../api/delivery'
import type { Collection } from '../../api/queries'
import { Dialog } from '../../parts/dialog'
import { ProblemNote } from '../../parts/notes'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { countText } from '../../thinking/figures'
import { FIELD, Labelled } from '../coming-in/form'

export function OfferForm({ collection, days }: { collection: Collection; days: number }) {
  const [open, setOpen] = useState(false)
  const [said, setSaid] = useState('')
  return (
    <Changing>
      <button type="button" className="btn btn-sm" onClick={() => setOpen(true)}>
        Use for suggestions
      </button>
      <span role="status" className="quiet small">
        {said}
      </span>
      {open && (
        <Dialog label="Use for suggestions" className="w-[480px]" onClose={() => setOpen(false)}>
          <Form
            collection={collection}
            days={days}
            onLeave={() => setOpen(false)}
            onDone={(queries) => {
              setSaid(
                `${countText(queries)} ${queries === 1 ? 'query is a past query' : 'queries are past queries'} now`,
              )
              setOpen(false)
            }}
          />
        </Dialog>
      )}
    </Changing>
  )
}

function Form(props: { collection: Collection; days: number; onLeave: () => void; onDone: (queries: number) => void }) {
  const { collection, days } = props
  const { busy, problem, act } = useDoing('past queries', collection.name)
  const [visitors, setVisitors] = useState(2)
  return (
    <form
      className="p-4"
      onSubmit={async (event) => {
        event.preventDefault()
        const told = await act(() => offerAsked(collection.name, { days, visitors }))
        if (told) props.onDone(told.kept?.queries ?? 0)
      }}
    >
      <p className="quiet pb-3">
        Completions and corrections that read past queries offer what was asked in the last{' '}
        {days === 1 ? 'day' : `${days} days`} and found something. It takes the place of the past queries that are
        there. What one visitor alone typed may be about themselves.
      </p>
      <Labelled label="Visitors who asked it, at least">
        <input
          type="number"
          className={FIELD}
          min={1}
          max={1_000}
          required
          autoFocus
          value={visitors}
          onChange={(event) => setVisitors(Number(event.target.value))}
        />
      </Labelled>
      <div className="flex gap-3">
        <button type="submit" className="btn btn-sm btn-primary" disabled={busy}>
          Take them
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={props.onLeave}>
          Leave it
        </button>
      </div>
      {problem && <ProblemNote error={problem} />}
    </form>
  )
}

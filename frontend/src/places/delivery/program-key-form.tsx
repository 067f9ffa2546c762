// A key for a program: what it is for, and what it may do in the collection.
import { useState } from 'react'
import { makeProgramKey } from '../../api/delivery'
import type { Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { Select } from '../../parts/select'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { FIELD, Labelled } from '../coming-in/form'

const ROLES = [
  ['reader', 'reader: looks and measures'],
  ['engineer', 'engineer: changes what is in it'],
  ['owner', 'owner: publishes and lets others in'],
] as const

export function ProgramKeyForm(props: {
  collection: Collection
  onMade: (shown: string) => void
  onLeave: () => void
}) {
  const { busy, problem, act } = useDoing('delivery', props.collection.name)
  const [label, setLabel] = useState('')
  const [role, setRole] = useState<'reader' | 'engineer' | 'owner'>('reader')
  const [days, setDays] = useState(365)
  return (
    <form
      aria-label="A key for a program"
      className="line-b mb-4 max-w-[560px] pb-3"
      onSubmit={(event) => {
        event.preventDefault()
        void act(() => makeProgramKey(props.collection.name, { label, role, days }), {
          then: ({ shown }) => props.onMade(shown),
        })
      }}
    >
      <Changing needs="own">
        <Labelled label="What it is for">
          <input
            dir="auto"
            className={FIELD}
            required
            autoFocus
            maxLength={200}
            value={label}
            onChange={(event) => setLabel(event.target.value)}
          />
        </Labelled>
        <Labelled label="What it may do" says="Never more than you may yourself, and only as long as you may.">
          <Select label="Role" className={FIELD} value={role} choices={ROLES} onChoose={setRole} />
        </Labelled>
        <Labelled label="For so many days">
          <input
            type="number"
            className={FIELD}
            min={1}
            max={3_650}
            required
            value={days}
            onChange={(event) => setDays(Number(event.target.value))}
          />
        </Labelled>
        <div className="flex gap-3">
          <button type="submit" className="btn btn-sm btn-primary" disabled={busy}>
            Make the key
          </button>
          <button type="button" className="btn btn-ghost btn-sm" onClick={props.onLeave}>
            Leave it
          </button>
        </div>
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

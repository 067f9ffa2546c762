// Oneself: who one is here, tasks to judge, the password, browsers and keys.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { here } from '../../api/base'
import { changePassword, endVisit, makeKey, ownVisits, signOut } from '../../api/people'
import { Unanswered } from '../../parts/answered'
import { CopyButton } from '../../parts/copy-button'
import { ProblemNote } from '../../parts/notes'
import { useDoing } from '../../shell/use-doing'
import { ROLE_SAYS } from '../../thinking/people'
import { whenText } from '../../thinking/revisions'
import { FIELD, PasswordField } from '../coming-in/form'
import { TaskList } from '../coming-in/own-tasks'
import type { PeopleProps } from './people-props'

export function YouView({ collection, me }: PeopleProps) {
  const { busy, problem, act } = useDoing(null)
  const own = me.person
  if (!own) return null
  const role = own.roles[collection.name]
  return (
    <div className="grid max-w-[1000px] grid-cols-[minmax(0,1fr)] gap-x-10 px-4 py-4 md:grid-cols-[repeat(2,minmax(0,1fr))]">
      <section aria-label="Who you are">
        <h2 className="text-lg font-semibold">{own.shown}</h2>
        <p className="quiet pb-2">
          You sign in as {own.name}.{' '}
          {own.keeper
            ? 'You keep this installation.'
            : role && `In ${collection.name} you are ${role}: a person who ${ROLE_SAYS[role]}.`}
        </p>
        <button
          type="button"
          className="btn btn-sm"
          disabled={busy}
          onClick={() => void act(signOut, { then: () => window.location.assign(here('/')) })}
        >
          Sign out
        </button>
        {problem && <ProblemNote error={problem} />}
        {me.elsewhere && (
          <p className="pt-6">
            <a className="link" href={here(`/api/sign-in/elsewhere?to=/${encodeURIComponent(collection.name)}/people`)}>
              Sign in with {me.elsewhere} from now on
            </a>
          </p>
        )}
        {own.has_password && <NewPassword />}
      </section>
      <section aria-label="What is yours">
        <h2 className="heading quiet pb-1">What there is to judge</h2>
        <TaskList />
        <h2 className="heading quiet pt-6 pb-1">Where you are signed in</h2>
        <Visits />
        <NewKey />
      </section>
    </div>
  )
}

function NewPassword() {
  const { busy, problem, act } = useDoing('people')
  const [old, setOld] = useState('')
  const [next, setNext] = useState('')
  const [done, setDone] = useState(false)
  return (
    <form
      aria-label="Another password"
      className="max-w-[360px] pt-6"
      onSubmit={(event) => {
        event.preventDefault()
        setDone(false)
        void act(() => changePassword(old, next), {
          then: () => {
            setOld('')
            setNext('')
            setDone(true)
          },
        })
      }}
    >
      <h2 className="heading quiet pb-2">Another password</h2>
      <PasswordField label="The old one" value={old} onValue={setOld} />
      <PasswordField
        label="The new one"
        says="Other browsers and keys of yours are signed out."
        isNew
        value={next}
        onValue={setNext}
      />
      <button type="submit" className="btn btn-sm" disabled={busy}>
        Change it
      </button>
      <span role="status" className="small pl-3">
        {done && 'Changed.'}
      </span>
      {problem && <ProblemNote error={problem} />}
    </form>
  )
}

function Visits() {
  const found = useQuery(ownVisits())
  const { busy, problem, act } = useDoing('people')
  if (!found.data) return <Unanswered asked={[found]} what="where you are signed in" />
  return (
    <>
      {problem && <ProblemNote error={problem} />}
      <ul>
        {found.data.map((one) => (
          <li key={one.number} className="line-b flex flex-wrap items-baseline gap-x-3 py-2">
            <span className="min-w-[240px] flex-1">
              <span className="block truncate" title={one.label}>
                {one.kind === 'key' ? `Key: ${one.label}` : one.label}
              </span>
              <span className="quiet small">
                since {whenText(one.begun_at)}, seen {whenText(one.seen_at)}, until {whenText(one.ends_at)}
              </span>
            </span>
            <button
              type="button"
              className="btn btn-ghost btn-xs font-normal"
              disabled={busy}
              aria-label={`${one.kind === 'key' ? 'End the key' : 'Sign out'} ${one.label}`}
              onClick={() => void act(() => endVisit(one.number))}
            >
              {one.kind === 'key' ? 'End' : 'Sign out'}
            </button>
          </li>
        ))}
      </ul>
    </>
  )
}

function NewKey() {
  const { busy, problem, act } = useDoing('people')
  const [label, setLabel] = useState('')
  const [made, setMade] = useState<string | null>(null)
  return (
    <form
      aria-label="A key for a program"
      className="pt-6"
      onSubmit={(event) => {
        event.preventDefault()
        void act(() => makeKey(label, 365), {
          then: ({ key }) => {
            setMade(key)
            setLabel('')
          },
        })
      }}
    >
      <h2 className="heading quiet pb-1">A key for a program</h2>
      <p className="quiet small pb-2">
        A program that sends it as <code>Authorization: Bearer KEY</code> may do what you may, for a year.
      </p>
      <div className="flex flex-wrap items-end gap-3">
        <label className="block min-w-[200px] flex-1">
          <span className="quiet small block">What it is for</span>
          <input
            dir="auto"
            className={FIELD}
            required
            maxLength={200}
            value={label}
            onChange={(event) => setLabel(event.target.value)}
          />
        </label>
        <button type="submit" className="btn btn-sm" disabled={busy}>
          Make a key
        </button>
      </div>
      {made && (
        <p role="status" className="mt-3 border-l-[3px] border-primary py-1 pl-3">
          Shown this once: <code className="text-[13px] wrap-anywhere">{made}</code>
          <CopyButton what="Copy the key" text={() => made} />
        </p>
      )}
      {problem && <ProblemNote error={problem} />}
    </form>
  )
}

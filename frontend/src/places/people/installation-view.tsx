// Everybody who may come in: what they may do, whether they still may, and new passwords.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import {
  changePerson,
  drawKeeperBack,
  forgetPerson,
  inviteKeeper,
  people,
  setPasswordOf,
  type Person,
} from '../../api/people'
import { Kept, Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { TakeAway } from '../../parts/take-away'
import { useDoing } from '../../shell/use-doing'
import { whenText } from '../../thinking/revisions'
import { FIELD, Labelled } from '../coming-in/form'
import { InviteForm, Invitations, type Made } from './invitations'
import type { PeopleProps } from './people-props'

type Deed = { does: 'password' | 'forget'; person: Person }

export function InstallationView({ me }: PeopleProps) {
  const found = useQuery(people())
  const { busy, problem, act } = useDoing('people')
  const [made, setMade] = useState<Made | null>(null)
  const [deed, setDeed] = useState<Deed | null>(null)
  if (!found.data) return <Unanswered asked={[found]} what="who may come in" />
  return (
    <Kept asked={[found]} what="who may come in">
      {problem && <ProblemNote error={problem} />}
      <div className="overflow-x-auto">
        <table aria-label="People" className="w-full min-w-[720px] border-collapse text-left">
          <thead>
            <tr className="line-b quiet small">
              <th className="py-2 pr-2 pl-4 font-normal">Person</th>
              <th className="px-2 font-normal">Keeper</th>
              <th className="px-2 font-normal">Makes collections</th>
              <th className="px-2 font-normal">May come in</th>
              <th className="px-2 text-right">
                <TakeAway
                  what="the people"
                  file="people"
                  rows={() => [
                    ['name', 'shown', 'keeper', 'makes collections', 'left', 'since'],
                    ...found.data.people.map((one) => [
                      ...[one.name, one.shown, String(one.keeper), String(one.makes_collections)],
                      ...[one.left_at ?? '', one.made_at],
                    ]),
                  ]}
                />
              </th>
            </tr>
          </thead>
          <tbody>
            {found.data.people.map((one) => (
              <Line
                key={one.name}
                one={one}
                busy={busy}
                isOwn={one.name === me.person?.name}
                onChange={(change) => void act(() => changePerson(one.name, change))}
                onBegin={(does) => setDeed({ does, person: one })}
              />
            ))}
          </tbody>
        </table>
      </div>
      {deed && (
        <DeedForm
          key={`${deed.does} ${deed.person.name}`}
          deed={deed}
          busy={busy}
          onLeave={() => setDeed(null)}
          onDo={(password) =>
            void act(
              () =>
                deed.does === 'forget' ? forgetPerson(deed.person.name) : setPasswordOf(deed.person.name, password),
              { then: () => setDeed(null) },
            )
          }
        />
      )}
      <InviteForm
        busy={busy}
        made={made}
        says="A link for somebody who keeps the installation too. Members of a collection are invited there, under Members."
        onInvite={(shown) => void act(() => inviteKeeper(shown), { then: ({ path }) => setMade({ shown, path }) })}
      />
      <Invitations invited={found.data.invited} busy={busy} onDraw={(id) => void act(() => drawKeeperBack(id))} />
    </Kept>
  )
}

function Line(props: {
  one: Person
  busy: boolean
  isOwn: boolean
  onChange: (change: Parameters<typeof changePerson>[1]) => void
  onBegin: (does: Deed['does']) => void
}) {
  const { one, busy } = props
  const tick = (label: string, on: boolean, change: (to: boolean) => Parameters<typeof changePerson>[1]) => (
    <label className="flex min-h-[24px] min-w-[24px] cursor-pointer items-center">
      <input
        type="checkbox"
        aria-label={`${label} ${one.shown}`}
        checked={on}
        disabled={busy || (one.keeper && label.startsWith('Makes'))}
        onChange={(event) => props.onChange(change(event.target.checked))}
      />
    </label>
  )
  return (
    <tr className="line-b">
      <td className="max-w-[260px] truncate py-2 pr-2 pl-4" title={one.shown}>
        {one.shown} <span className="quiet small">{one.name}</span>
        {props.isOwn && <span className="quiet small">, you</span>}
      </td>
      <td className="px-2">{tick('Keeper:', one.keeper, (keeper) => ({ keeper }))}</td>
      <td className="px-2">
        {tick('Makes collections:', one.makes_collections || one.keeper, (makes_collections) => ({
          makes_collections,
        }))}
      </td>
      <td className="px-2 whitespace-nowrap">
        <span className="flex items-center gap-2">
          {tick('May come in:', one.left_at === null, (may) => ({ left: !may }))}
          {one.left_at && <span className="quiet small">left {whenText(one.left_at)}</span>}
        </span>
      </td>
      <td className="px-2 text-right whitespace-nowrap">
        <button
          type="button"
          className="btn btn-ghost btn-xs font-normal"
          aria-label={`A new password for ${one.shown}`}
          onClick={() => props.onBegin('password')}
        >
          New password
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-xs font-normal"
          aria-label={`Forget ${one.shown}`}
          onClick={() => props.onBegin('forget')}
        >
          Forget
        </button>
      </td>
    </tr>
  )
}

function DeedForm(props: { deed: Deed; busy: boolean; onLeave: () => void; onDo: (password: string) => void }) {
  const { does, person } = props.deed
  const [typed, setTyped] = useState('')
  const forgets = does === 'forget'
  return (
    <form
      aria-label={forgets ? `Forget ${person.shown}` : `A new password for ${person.shown}`}
      className="line-b max-w-[520px] bg-base-200 px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault()
        props.onDo(typed)
      }}
    >
      <p className="pb-2">
        {forgets
          ? `What ${person.shown} did stays, as done by “somebody who left”. The account and the name are gone for good.`
          : `${person.shown} is signed out everywhere, and comes in by the new password.`}
      </p>
      <Labelled label={forgets ? `To be sure: the name ${person.name}` : 'New password, twelve letters or more'}>
        <input
          dir="auto"
          className={FIELD}
          autoFocus
          required
          autoComplete="off"
          spellCheck={false}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
      </Labelled>
      <div className="flex gap-3">
        <button
          type="submit"
          className="btn btn-sm btn-primary"
          disabled={props.busy || (forgets && typed !== person.name)}
        >
          {forgets ? 'Forget for good' : 'Give the password'}
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={props.onLeave}>
          Leave it
        </button>
      </div>
    </form>
  )
}

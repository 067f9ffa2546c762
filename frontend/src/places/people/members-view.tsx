// Members of the collection by their roles, and invitations to it.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { dropMember, drawMemberBack, inviteMember, members, setMember, type Members, type Role } from '../../api/people'
import { Kept, Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { Select } from '../../parts/select'
import { TakeAway } from '../../parts/take-away'
import { useDoing } from '../../shell/use-doing'
import { ROLES, ROLE_SAYS } from '../../thinking/people'
import { whenText } from '../../thinking/revisions'
import { InviteForm, Invitations, type Made } from './invitations'
import type { PeopleProps } from './people-props'

const CHOICES = ROLES.map((role) => [role, role] as const)
const SELECT = 'border-b border-base-300 bg-transparent'

export function MembersView({ collection }: PeopleProps) {
  const found = useQuery(members(collection.name))
  const { busy, problem, act } = useDoing('people')
  const [role, setRole] = useState<Role>('engineer')
  const [made, setMade] = useState<Made | null>(null)
  if (!found.data) return <Unanswered asked={[found]} what="the members" />
  const { members: known, invited } = found.data
  return (
    <Kept asked={[found]} what="the members">
      {problem && <ProblemNote error={problem} />}
      <div className="overflow-x-auto">
        <table aria-label="Members" className="w-full min-w-[720px] border-collapse text-left">
          <thead>
            <tr className="line-b quiet small">
              <th className="py-2 pr-2 pl-4 font-normal">Member</th>
              <th className="px-2 font-normal">Role</th>
              <th className="px-2 font-normal">Since</th>
              <th className="px-2 text-right">
                <TakeAway
                  what="the members"
                  file={`${collection.name}-members`}
                  rows={() => [
                    ['name', 'shown', 'role', 'since'],
                    ...known.map((one) => [one.name, one.shown, one.role, one.since]),
                  ]}
                />
              </th>
            </tr>
          </thead>
          <tbody>
            {known.map((one) => (
              <Line
                key={one.name}
                one={one}
                busy={busy}
                onRole={(next) => void act(() => setMember(collection.name, one.name, next))}
                onDrop={() => void act(() => dropMember(collection.name, one.name))}
              />
            ))}
          </tbody>
        </table>
      </div>
      {known.length === 0 && (
        <p className="quiet px-4 py-3">No member yet: only keepers of the installation see this collection.</p>
      )}
      <InviteForm
        busy={busy}
        made={made}
        says="A link that holds for seven days. Whoever has it comes in by it once: with a new account, or with their own."
        onInvite={(shown) =>
          void act(() => inviteMember(collection.name, shown, role), {
            then: ({ path }) => setMade({ shown, path }),
          })
        }
      >
        <label className="block">
          <span className="quiet small block">As</span>
          <Select label="As" className={`${SELECT} h-8`} value={role} choices={CHOICES} onChoose={setRole} />
        </label>
        <span className="quiet small pb-2">{ROLE_SAYS[role]}</span>
      </InviteForm>
      <Invitations
        invited={invited.map((one) => ({ ...one, role: one.role as Role | null }))}
        busy={busy}
        onDraw={(id) => void act(() => drawMemberBack(collection.name, id))}
      />
    </Kept>
  )
}

type LineProps = { one: Members['members'][number]; busy: boolean; onRole: (role: Role) => void; onDrop: () => void }

function Line({ one, busy, onRole, onDrop }: LineProps) {
  return (
    <tr className="line-b">
      <td className="max-w-[260px] truncate py-2 pr-2 pl-4" title={one.shown}>
        {one.shown} <span className="quiet small">{one.name}</span>
        {one.left && <span className="loss small"> left</span>}
      </td>
      <td className="px-2">
        <Select
          label={`Role of ${one.shown}`}
          className={SELECT}
          value={one.role as Role}
          choices={CHOICES}
          onChoose={onRole}
        />
      </td>
      <td className="quiet small px-2 whitespace-nowrap">{whenText(one.since)}</td>
      <td className="px-2 text-right">
        <button
          type="button"
          className="btn btn-ghost btn-xs font-normal"
          disabled={busy}
          aria-label={`Take out ${one.shown}`}
          onClick={onDrop}
        >
          Take out
        </button>
      </td>
    </tr>
  )
}

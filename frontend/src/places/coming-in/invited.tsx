// An invitation: what it is to, and who takes it.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate, useParams } from 'react-router'
import { invited, me, takeInvitation } from '../../api/people'
import { Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { useDoing } from '../../shell/use-doing'
import { ROLE_SAYS } from '../../thinking/people'
import { whenText } from '../../thinking/revisions'
import { Sheet } from './form'
import { Newcomer } from './newcomer'

export function Invited() {
  const { token = '' } = useParams()
  const client = useQueryClient()
  const navigate = useNavigate()
  const found = useQuery(invited(token))
  const { busy, problem, act } = useDoing(null)
  if (!found.data) {
    return (
      <Sheet title="An invitation">
        <Unanswered asked={[found]} what="the invitation" />
      </Sheet>
    )
  }
  const { collection, role, keeper, known, shown, by_person, ends_at } = found.data
  const take = (name: string | null, as: string | null, password: string | null) =>
    act(() => takeInvitation(token, { name, shown: as, password }), {
      then: async () => {
        client.clear()
        await client.fetchQuery(me())
        navigate(collection && role !== 'judge' ? `/${collection}` : '/', { replace: true })
      },
    })
  return (
    <Sheet title={keeper ? 'Keep this installation' : `Come to ${collection ?? ''}`}>
      <p className="pb-4">
        {by_person ?? 'The keeper'} invites {shown}{' '}
        {keeper
          ? 'to keep the installation: people, and every collection.'
          : role && `as ${role}, who ${ROLE_SAYS[role]}.`}{' '}
        <span className="quiet">The invitation holds until {whenText(ends_at)}.</span>
      </p>
      {known === null ? (
        <>
          <Newcomer
            label="Take the invitation"
            shown={shown}
            busy={busy}
            does="Come in"
            onTake={(name, as, password) => void take(name, as, password)}
          />
          <p className="quiet small pt-4">
            You have an account here?{' '}
            <Link to={`/sign-in?to=${encodeURIComponent(`/invited/${token}`)}`} className="link">
              Sign in first
            </Link>
            .
          </p>
        </>
      ) : (
        <button
          type="button"
          className="btn btn-sm btn-primary"
          disabled={busy}
          onClick={() => void take(null, null, null)}
        >
          Take it as {known}
        </button>
      )}
      {problem && <ProblemNote error={problem} />}
    </Sheet>
  )
}

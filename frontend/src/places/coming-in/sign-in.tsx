// Signing in: a name and a password, and then on to where one wanted to go.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Navigate, useNavigate, useSearchParams } from 'react-router'
import { here } from '../../api/base'
import { me, signIn } from '../../api/people'
import { Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { useDoing } from '../../shell/use-doing'
import { placeToGoOn } from '../../thinking/people'
import { FIELD, Labelled, PasswordField, Sheet } from './form'

export function SignIn() {
  const client = useQueryClient()
  const navigate = useNavigate()
  const [params] = useSearchParams()
  const known = useQuery(me())
  const [name, setName] = useState('')
  const [password, setPassword] = useState('')
  const { busy, problem, act } = useDoing(null)
  const to = placeToGoOn(params.get('to'))
  if (!known.data) return <Unanswered asked={[known]} what="who is here" />
  if (!known.data.needs_sign_in || known.data.person) return <Navigate to={to} replace />
  const submit = () =>
    act(() => signIn(name, password), {
      then: async () => {
        // Whoever was here before may have seen something else.
        client.clear()
        await client.fetchQuery(me())
        navigate(to, { replace: true })
      },
    })
  return (
    <Sheet title="Sign in">
      <form
        onSubmit={(event) => {
          event.preventDefault()
          void submit()
        }}
      >
        <Labelled label="Name">
          <input
            dir="auto"
            className={FIELD}
            autoFocus
            required
            autoComplete="username"
            autoCapitalize="none"
            spellCheck={false}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Labelled>
        <PasswordField label="Password" value={password} onValue={setPassword} />
        <button type="submit" className="btn btn-sm btn-primary" disabled={busy}>
          {busy ? 'Signing in …' : 'Sign in'}
        </button>
      </form>
      {known.data.elsewhere && (
        <p className="pt-6">
          <a className="btn btn-sm" href={here(`/api/sign-in/elsewhere?to=${encodeURIComponent(to)}`)}>
            Sign in with {known.data.elsewhere}
          </a>
        </p>
      )}
      {problem && <ProblemNote error={problem} />}
      {!problem && known.data.refused && (
        <p role="alert" className="pt-4 text-error">
          {known.data.refused}
        </p>
      )}
      <p className="quiet small pt-6">
        No account? Whoever keeps this installation, or owns a collection, can send you an invitation. Forgotten the
        password? A keeper gives you a new one.
      </p>
    </Sheet>
  )
}

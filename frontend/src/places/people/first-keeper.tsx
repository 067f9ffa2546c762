// As long as nobody is known here: what that means, and how the first one is made.
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { addPerson, me, signIn } from '../../api/people'
import { ProblemNote } from '../../parts/notes'
import { useDoing } from '../../shell/use-doing'
import { FIELD, Labelled } from '../coming-in/form'

export function FirstKeeper() {
  const client = useQueryClient()
  const [name, setName] = useState('')
  const [shown, setShown] = useState('')
  const [password, setPassword] = useState('')
  const { busy, problem, act } = useDoing('people')
  const submit = () =>
    act(
      async () => {
        const made = await addPerson({ name, shown, password, keeper: true })
        await signIn(made.name, password)
      },
      { then: () => client.fetchQuery({ ...me(), staleTime: 0 }) },
    )
  return (
    <section aria-label="The first keeper" className="max-w-[520px] p-6">
      <h2 className="pb-1 text-lg font-semibold">Nobody signs in here</h2>
      <p className="quiet pb-4">
        Whoever is at this machine may do everything. Once there is a keeper everybody signs in, and the keeper lets
        others in: as members of a collection, or as keepers too.
      </p>
      <form
        aria-label="Make the first keeper"
        onSubmit={(event) => {
          event.preventDefault()
          void submit()
        }}
      >
        <Labelled label="Name to sign in by" says="Letters from a to z, digits and . _ @ -">
          <input
            dir="auto"
            className={FIELD}
            required
            maxLength={63}
            autoComplete="username"
            autoCapitalize="none"
            spellCheck={false}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Labelled>
        <Labelled label="Name that others see">
          <input
            dir="auto"
            className={FIELD}
            required
            maxLength={100}
            autoComplete="name"
            value={shown}
            onChange={(event) => setShown(event.target.value)}
          />
        </Labelled>
        <Labelled label="Password" says="Twelve letters or more; several words in a row are easy to keep in mind.">
          <input
            dir="auto"
            type="password"
            className={FIELD}
            required
            autoComplete="new-password"
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
        </Labelled>
        <button type="submit" className="btn btn-sm btn-primary" disabled={busy}>
          {busy ? 'One moment …' : 'Make the first keeper'}
        </button>
      </form>
      {problem && <ProblemNote error={problem} />}
    </section>
  )
}

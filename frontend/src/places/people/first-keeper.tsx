// As long as nobody is known here: what that means, and how the first one is made.
import { useQueryClient } from '@tanstack/react-query'
import { addPerson, me, signIn } from '../../api/people'
import { ProblemNote } from '../../parts/notes'
import { useDoing } from '../../shell/use-doing'
import { Newcomer } from '../coming-in/newcomer'

export function FirstKeeper() {
  const client = useQueryClient()
  const { busy, problem, act } = useDoing('people')
  const make = (name: string, shown: string, password: string) =>
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
      <Newcomer
        label="Make the first keeper"
        shown=""
        busy={busy}
        does="Make the first keeper"
        onTake={(name, shown, password) => void make(name, shown, password)}
      />
      {problem && <ProblemNote error={problem} />}
    </section>
  )
}

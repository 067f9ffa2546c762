// A new judged set: empty, to be filled by hand, from a list, from files, from complaints.
import { makeSet } from '../../api/judging'
import type { Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { letGo, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { Changing } from '../../shell/changing'

export function NewSet({ collection, first }: { collection: Collection; first: boolean }) {
  const { change } = useAddress()
  const { busy, problem, act } = useDoing('judging', collection.name)
  const held = `new set ${collection.name}/`
  const [name, setName] = useHeld(`${held}name`, first ? 'visitors' : '')
  const [share, setShare] = useHeld(`${held}share`, 20)
  return (
    <form
      className="max-w-[64ch] p-6"
      onSubmit={async (event) => {
        event.preventDefault()
        if (await act(() => makeSet(collection.name, name, share / 100))) {
          letGo(held)
          change({ set: name, new: null, view: 'queries' }, false)
        }
      }}
    >
      <Changing>
        <h2 className="pb-1 text-lg font-semibold">{first ? 'No judged set yet' : 'Another judged set'}</h2>
        <p className="quiet pb-3">
          A judged set is a list of queries, what was wanted by each, and grades that people gave to records. With one,
          every edit says what it did.
        </p>
        <label className="block pb-3">
          <span className="quiet small block">Name: small letters, digits, - and _</span>
          <input
            dir="auto"
            aria-label="Name of the set"
            className="input input-sm w-[240px] border-base-300 bg-transparent"
            required
            pattern="[a-z0-9][a-z0-9_\-]{0,62}"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <label className="block pb-3">
          <span className="quiet small block">
            Locked away from everyday looking, so that a gain can be checked on queries that nobody tuned for
          </span>
          <input
            aria-label="Share locked away"
            type="number"
            min={0}
            max={90}
            className="input input-sm w-[90px] border-base-300 bg-transparent"
            value={share}
            onChange={(event) => setShare(Number(event.target.value))}
          />{' '}
          %
        </label>
        <div className="flex gap-2">
          <button type="submit" className="btn btn-sm btn-primary" disabled={busy}>
            Make it
          </button>
          {!first && (
            <button type="button" className="btn btn-sm btn-ghost" onClick={() => change({ new: null })}>
              Back
            </button>
          )}
        </div>
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

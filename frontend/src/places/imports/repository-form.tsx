// Another institution's repository as a source of records, by OAI-PMH.
import { letGo, useHeld } from '../../parts/use-held'
import type { SourceRequest } from '../../api/records'

export function RepositoryForm({ busy, onSource }: { busy: boolean; onSource: (source: SourceRequest) => void }) {
  const held = 'repository/'
  const [open, setOpen] = useHeld(`${held}open`, false)
  const [address, setAddress] = useHeld(`${held}address`, '')
  const [metadata, setMetadata] = useHeld(`${held}metadata`, '')
  const [ofSet, setOfSet] = useHeld(`${held}set`, '')
  const [anew, setAnew] = useHeld(`${held}anew`, false)
  if (!open) {
    return (
      <p className="px-4 pb-3">
        <button type="button" className="link" onClick={() => setOpen(true)}>
          Or harvest them from a repository (OAI-PMH)
        </button>
      </p>
    )
  }
  return (
    <form
      aria-label="From a repository"
      className="row-stack grid max-w-[860px] grid-cols-[150px_minmax(0,1fr)] items-baseline gap-x-3 gap-y-2 px-4 pb-4"
      onSubmit={(event) => {
        event.preventDefault()
        onSource({
          repository: address.trim(),
          anew,
          ...(metadata.trim() ? { metadata: metadata.trim() } : {}),
          ...(ofSet.trim() ? { of_set: ofSet.trim() } : {}),
        })
      }}
    >
      <label className="quiet small" htmlFor="repository">
        Address
      </label>
      <input
        dir="auto"
        id="repository"
        autoFocus
        required
        type="url"
        autoComplete="off"
        spellCheck={false}
        placeholder="https://archive.example.org/oai"
        className="input input-sm w-full border-base-300 bg-transparent font-mono text-[13px]"
        value={address}
        onChange={(event) => setAddress(event.target.value)}
      />
      <Choice id="metadata" name="Form of records" usual="oai_dc" value={metadata} onValue={setMetadata} />
      <Choice id="of-set" name="Set" usual="all of them" value={ofSet} onValue={setOfSet} />
      <span />
      <label className="flex min-h-[24px] items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={anew}
          onChange={(event) => setAnew(event.target.checked)}
        />
        <span>Read everything, and not only what changed since last time</span>
      </label>
      <span />
      <div className="flex flex-wrap gap-3">
        <button type="submit" className="btn btn-primary btn-sm" disabled={busy}>
          Look at the first records
        </button>
        <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={() => letGo(held)}>
          Cancel
        </button>
        <span className="quiet small self-center">Records that are gone there are deleted here.</span>
      </div>
    </form>
  )
}

function Choice(props: { id: string; name: string; usual: string; value: string; onValue: (to: string) => void }) {
  return (
    <>
      <label className="quiet small" htmlFor={props.id}>
        {props.name}
      </label>
      <input
        dir="auto"
        id={props.id}
        placeholder={props.usual}
        className="input input-sm w-[200px] border-base-300 bg-transparent font-mono text-[13px]"
        value={props.value}
        onChange={(event) => props.onValue(event.target.value)}
      />
    </>
  )
}

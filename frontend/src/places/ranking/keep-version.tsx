// A draft becomes a version: of its ranker, or of one with another name, unless somebody else was quicker.
import { Changing } from '../../shell/changing'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { drafts } from '../../api/drafts'
import { putRanker, rankerDifferences, rankers, type Collection, type Ranker } from '../../api/queries'
import { differencesText } from '../../parts/differences'
import { useAddress } from '../../shell/address'
import { draftGoneOnWith, letGo } from '../../shell/draft-keeping'
import { letGo as letGoOfForm, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { BASELINE_PARAMS, type Draft } from '../../shell/use-draft'
import { useUndo } from '../../shell/use-undo'
import { isOutdated } from '../../thinking/freshness'

const newestOf = (kept: Ranker[], name: string) =>
  Math.max(0, ...kept.filter((one) => one.name === name).map((one) => one.version))

export function KeepVersion({ collection, draft }: { collection: Collection; draft: Draft }) {
  const [said, setSaid] = useState<string | null>(null)
  if (draft.isBaseline) {
    return <p className="quiet small px-4 py-3">{said ?? 'Turn a knob to begin a draft.'}</p>
  }
  return <KeepForm collection={collection} draft={draft} onKept={setSaid} />
}

type KeepProps = { collection: Collection; draft: Draft; onKept: (said: string) => void }

// newest: the newest version that is known of, of the name it is kept by.
function useKeeping({ collection, draft, onKept }: KeepProps, name: string) {
  const client = useQueryClient()
  const { change } = useAddress()
  const undo = useUndo(draft)
  const { busy, problem, act, forget } = useDoing('rankers', collection.name)
  // What was there when the draft was begun: the server remembers it of a draft that was taken up again.
  const [begun] = useState(draft.kept)
  const left = useQuery(drafts(collection.name)).data?.find((one) => one.id === draftGoneOnWith(collection.name))
  const ofOwn = Math.min(left?.newest ?? Infinity, newestOf(begun, draft.baseline.name))
  // Whoever gives it another name means another ranker.
  const known = name === draft.baseline.name ? ofOwn : 0
  const keep = async (note: string, newest: number) => {
    const work = () =>
      putRanker(collection.name, draft.baseline, draft.document, {
        ...{ name, note, newest },
        draft: draftGoneOnWith(collection.name),
      })
    // The new version is there before it is the one that is looked at; one that was quicker is shown.
    const renewed = () => client.refetchQueries({ queryKey: rankers(collection.name).queryKey })
    const kept = await act(work, {
      then: async (version) => {
        await renewed()
        letGo(collection.name)
        letGoOfForm(`keeping ${collection.name}/`)
        undo.forget()
        onKept(`Kept as ${version.name} ${version.version}.`)
        change({ ranker: `${version.name}:${version.version}`, ...BASELINE_PARAMS })
      },
    })
    if (!kept) await renewed()
  }
  return { busy, problem, forget, known, keep }
}

function KeepForm(props: KeepProps) {
  const { collection, draft } = props
  const held = `keeping ${collection.name}/`
  const [note, setNote] = useHeld(`${held}note`, '')
  const [name, setName] = useHeld(`${held}name`, draft.baseline.name)
  const { busy, problem, forget, known, keep } = useKeeping(props, name)
  const { change } = useAddress()
  const wasQuicker = problem !== null && newestOf(draft.kept, name) > known
  const changed = useQuery(rankerDifferences(collection.name, draft.baselineChoice, draft.choice))
  const changes = differencesText(changed.data?.differences)
  const why = note.trim() || (isOutdated(changed) ? '' : changes)
  return (
    <form
      className="sticky bottom-0 flex flex-col gap-2 bg-base-100 px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault()
        void keep(why, known)
      }}
    >
      <p className="small wrap-anywhere max-h-[120px] overflow-y-auto" data-testid="draft-differences">
        <span className="quiet">Draft: </span>
        {changed.isError ? (
          <span className="loss">{changed.error.message}</span>
        ) : (
          <span className={isOutdated(changed) ? 'opacity-45' : ''}>{changes}</span>
        )}
      </p>
      <textarea
        dir="auto"
        aria-label="Why this version is kept"
        placeholder="Why, in a few words"
        maxLength={2000}
        rows={2}
        className="textarea textarea-sm min-h-[52px] w-full border-base-300 bg-transparent"
        value={note}
        onChange={(event) => setNote(event.target.value)}
      />
      <label className="small flex items-baseline gap-2">
        <span className="quiet">of the ranker</span>
        <input
          dir="auto"
          aria-label="Name of the ranker"
          title="Another name makes another ranker of it"
          maxLength={63}
          required
          className="input input-xs min-w-0 flex-1 border-base-300 bg-transparent"
          value={name}
          onChange={(event) => {
            setName(event.target.value)
            forget()
          }}
        />
      </label>
      <Changing>
        <button type="submit" className="btn btn-sm btn-primary" disabled={busy || name.trim() === ''}>
          {name === draft.baseline.name ? 'Keep as a new version' : 'Keep as another ranker'}
        </button>
      </Changing>
      {problem && <p className="loss small">{problem.message}</p>}
      {wasQuicker && (
        <p className="small flex flex-wrap gap-x-3">
          <button type="button" className="link" onClick={() => void keep(why, newestOf(draft.kept, name))}>
            Keep this one all the same
          </button>
          <button type="button" className="link" onClick={() => change({ tab: 'versions' })}>
            See what was kept
          </button>
        </p>
      )}
    </form>
  )
}

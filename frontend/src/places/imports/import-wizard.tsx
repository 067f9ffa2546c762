// From a dropped file, a query on a database, or a repository, to records: seen, corrected, then taken in.
import { useCallback } from 'react'
import { useNavigate } from 'react-router'
import type { Collection } from '../../api/queries'
import { previewed, startImport, upload, type ImportPlan, type Preview, type SourceRequest } from '../../api/records'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { collectionName } from '../../thinking/import-plan'
import { DatabaseForm } from './database-form'
import { DropZone } from './drop-zone'
import { RepositoryForm } from './repository-form'
import { ImportProgress } from './import-progress'
import { PlanTable } from './plan-table'
import { letGo, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'

// collection: where the records go; null where there is none yet, and a name is asked for.
export function ImportWizard({ collection }: { collection: Collection | null }) {
  const navigate = useNavigate()
  const held = `import ${collection?.name ?? ''}/`
  const [source, setSource] = useHeld<SourceRequest | null>(`${held}source`, null)
  const [preview, setPreview] = useHeld<Preview | null>(`${held}preview`, null)
  const [plan, setPlan] = useHeld<ImportPlan | null>(`${held}plan`, null)
  const [tuneStart, setTuneStart] = useHeld(`${held}tune start`, false)
  const [sent, setSent] = useHeld<{ name: string; share: number } | null>(`${held}sent`, null)
  const [name, setName] = useHeld(`${held}name`, collection?.name ?? '')
  // In the address, so that how it ended stays until it is left, also by a reload.
  const { params, change } = useAddress()
  const job = params.get('import') === null ? null : Number(params.get('import'))

  const { busy, problem, act, forget } = useDoing(null)
  const look = (of: SourceRequest, by: ImportPlan | null = null) =>
    act(() => previewed(of, by, collection?.name ?? null), {
      then: (seen) => {
        setSource(of)
        setPreview(seen)
        setPlan(seen.plan)
        if (name === '') setName(collectionName(seen.name))
      },
    })
  const take = async (file: File) => {
    setPreview(null)
    const own = await act(() =>
      upload(file, (bytes) => setSent({ name: file.name, share: file.size === 0 ? 1 : bytes / file.size })),
    )
    setSent(null)
    if (own) await look({ upload: own.upload })
  }
  const isNew = collection === null || name !== collection.name || collection.records === 0
  const go = async () => {
    const started = source && plan && (await act(() => startImport(name, source, plan, tuneStart && isNew)))
    if (!started) return
    change({ import: String(started.id) })
    setPreview(null)
  }
  const changePlan = (changed: ImportPlan, readAgain: boolean) => {
    setPlan(changed)
    if (readAgain && source) void look(source, changed)
  }
  const finished = useCallback(() => {
    if (collection === null || (job !== null && name !== collection.name)) {
      letGo(held)
      navigate(`/${name}/records?view=import&import=${job}`)
    }
  }, [held, collection, name, job, navigate])

  return (
    <section aria-label="Import">
      {!preview && job === null && (
        <>
          <DropZone sent={sent} busy={busy} onFile={(file) => void take(file)} />
          <Elsewhere collection={collection} busy={busy} onSource={(of) => void look(of)} />
        </>
      )}
      {problem && <ProblemNote error={problem} />}
      {preview && plan && (
        <PlanTable
          preview={preview}
          plan={plan}
          name={name}
          onName={setName}
          tuneStart={isNew ? tuneStart : null}
          onTuneStart={setTuneStart}
          collection={collection}
          busy={busy}
          onPlan={changePlan}
          onGo={() => void go()}
          onLeave={() => {
            letGo(held)
            forget()
          }}
        />
      )}
      {job !== null && <ImportJob job={job} finished={finished} onLeave={() => change({ import: null })} />}
    </section>
  )
}

type Sourcing = { busy: boolean; onSource: (source: SourceRequest) => void }

function Elsewhere({ collection, ...sourcing }: Sourcing & { collection: Collection | null }) {
  const { change } = useAddress()
  return (
    <>
      <DatabaseForm {...sourcing} onFollow={collection && (() => change({ view: 'following' }, false))} />
      <RepositoryForm {...sourcing} />
    </>
  )
}

function ImportJob({ job, finished, onLeave }: { job: number; finished: () => void; onLeave: () => void }) {
  return (
    <div className="px-4 py-4">
      <ImportProgress id={job} onFinished={finished} />
      <p className="pt-3">
        <button type="button" className="link" onClick={onLeave}>
          Import something else
        </button>
      </p>
    </div>
  )
}

// From a dropped file, or a query on a database, to records: seen, corrected, then taken in.
import { useMutation } from '@tanstack/react-query'
import { useCallback, useState } from 'react'
import { useNavigate } from 'react-router'
import type { Collection } from '../../api/queries'
import { previewed, startImport, upload, type ImportPlan, type Preview, type SourceRequest } from '../../api/records'
import { ProblemNote } from '../../parts/notes'
import { collectionName } from '../../thinking/import-plan'
import { DatabaseForm } from './database-form'
import { DropZone } from './drop-zone'
import { ImportProgress } from './import-progress'
import { PlanTable } from './plan-table'

// collection: where the records go; null where there is none yet, and a name is asked for.
export function ImportWizard({ collection }: { collection: Collection | null }) {
  const navigate = useNavigate()
  const [source, setSource] = useState<SourceRequest | null>(null)
  const [preview, setPreview] = useState<Preview | null>(null)
  const [plan, setPlan] = useState<ImportPlan | null>(null)
  const [sent, setSent] = useState<{ name: string; share: number } | null>(null)
  const [name, setName] = useState(collection?.name ?? '')
  const [job, setJob] = useState<number | null>(null)

  const look = useMutation({
    mutationFn: async (ask: { source: SourceRequest; plan?: ImportPlan }) => ({
      source: ask.source,
      seen: await previewed(ask.source, ask.plan ?? null, collection?.name ?? null),
    }),
    onSuccess: ({ source: of, seen }) => {
      setSource(of)
      setPreview(seen)
      setPlan(seen.plan)
      if (name === '') setName(collectionName(seen.name))
    },
  })
  const take = useMutation({
    mutationFn: async (file: File) => {
      setJob(null)
      setPreview(null)
      const own = await upload(file, (bytes) =>
        setSent({ name: file.name, share: file.size === 0 ? 1 : bytes / file.size }),
      )
      await look.mutateAsync({ source: { upload: own.upload } })
    },
    onSettled: () => setSent(null),
  })
  const go = useMutation({
    mutationFn: async () => {
      if (!source || !plan) throw new Error('There is nothing to import.')
      return startImport(name, source, plan)
    },
    onSuccess: (started) => {
      setJob(started.id)
      setPreview(null)
    },
  })
  const changePlan = (changed: ImportPlan, readAgain: boolean) => {
    setPlan(changed)
    if (readAgain && source) look.mutate({ source, plan: changed })
  }
  const finished = useCallback(() => {
    if (collection === null || name !== collection.name) navigate(`/${name}/records?view=import`)
  }, [collection, name, navigate])

  const error = look.error ?? take.error ?? go.error
  return (
    <section aria-label="Import">
      {!preview && job === null && (
        <>
          <DropZone sent={sent} busy={look.isPending} onFile={(file) => take.mutate(file)} />
          <DatabaseForm busy={look.isPending} onSource={(of) => look.mutate({ source: of })} />
        </>
      )}
      {error && <ProblemNote error={error} />}
      {preview && plan && (
        <PlanTable
          preview={preview}
          plan={plan}
          name={name}
          onName={setName}
          collection={collection}
          busy={look.isPending || go.isPending}
          onPlan={changePlan}
          onGo={() => go.mutate()}
          onLeave={() => {
            setPreview(null)
            setSource(null)
            look.reset()
            go.reset()
          }}
        />
      )}
      {job !== null && (
        <div className="px-4 py-4">
          <ImportProgress id={job} onFinished={finished} />
          <p className="pt-3">
            <button type="button" className="link" onClick={() => setJob(null)}>
              Import something else
            </button>
          </p>
        </div>
      )}
    </section>
  )
}

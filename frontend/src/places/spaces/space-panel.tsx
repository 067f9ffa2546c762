// One space: how it stands and what can be done with it, what lies near what, and its map.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Collection } from '../../api/queries'
import { cancelFilling, costOf, dropSpace, fillSpace, type Space } from '../../api/spaces'
import { ProblemNote } from '../../parts/notes'
import { countText } from '../../thinking/figures'
import { coverText, sourceName } from '../../thinking/spaces'
import { BringForm } from './bring-form'
import { FillingNote } from './filling-note'
import { LookInto } from './look-into'
import { useDoing } from '../../shell/use-doing'
import { Changing } from '../../shell/changing'

export function SpacePanel({ collection, space }: { collection: Collection; space: Space }) {
  const { busy: acting, problem, act } = useDoing('spaces', collection.name)
  const [confirming, setConfirming] = useState<'drop' | 'anew' | null>(null)
  const fill = (anew: boolean) => void act(() => fillSpace(collection.name, space.name, anew))
  // Before a service is asked for the first time, its cost is counted without being asked for.
  const untouched = space.document.source.kind === 'service' && space.state === 'new'
  const cost = useQuery({ ...costOf(collection.name, space.name), enabled: untouched })
  const { document, report } = space
  const busy = space.state === 'waiting' || space.state === 'running'
  const byFiles = document.source.kind === 'brought' && !document.source.field
  const sure = (what: 'drop' | 'anew') => {
    setConfirming(null)
    if (what === 'drop') void act(() => dropSpace(collection.name, space.name))
    else fill(true)
  }
  return (
    <>
      <section aria-label="The space" className="line-b px-6 py-4">
        <div className="flex items-baseline gap-3">
          <h2 className="text-lg font-semibold">{space.name}</h2>
          <span className="quiet min-w-0 flex-1 truncate">
            {sourceName(document.source.kind)} · {coverText(document)}
          </span>
          <Acts
            space={space}
            acting={acting}
            onCancel={() => act(() => cancelFilling(collection.name, space.name))}
            onCost={() => void cost.refetch()}
            onFill={() => fill(false)}
            onConfirm={setConfirming}
          />
        </div>
        {confirming && (
          <p role="alert" className="flex items-center gap-4 pt-2">
            {confirming === 'drop'
              ? `Drop “${space.name}” with all its vectors?`
              : 'Throw its vectors away first? Rankers that ask it find nothing by it until it is filled again.'}
            <button type="button" className="btn btn-xs btn-error" onClick={() => sure(confirming)}>
              {confirming === 'drop' ? 'Drop it' : 'Begin anew'}
            </button>
            <button type="button" className="link" onClick={() => setConfirming(null)}>
              Keep it
            </button>
          </p>
        )}
        <FillingNote space={space} />
        <Facts space={space} />
        {cost.isFetching && <p className="quiet pt-2">Counting …</p>}
        {cost.data && !cost.isFetching && (
          <p className="pt-2" data-testid="cost">
            Filling asks for <b>{countText(cost.data.texts)}</b> texts ({countText(cost.data.words)} words) of{' '}
            {countText(cost.data.records)} records in {countText(cost.data.requests)} requests to {cost.data.model};{' '}
            {cost.data.known > 0 && `${countText(cost.data.known)} more have their vectors already.`}
            {cost.data.price !== null && ` That costs ${cost.data.price.toFixed(2)} ${cost.data.currency}.`}
          </p>
        )}
        {report && Object.keys(report.faults).length > 0 && <FaultList report={report} />}
        {[problem, cost.error].map((error, i) => error && <ProblemNote key={i} error={error} />)}
      </section>
      {byFiles && <BringForm collection={collection.name} space={space} />}
      {space.model && !busy && <LookInto collection={collection} space={space} />}
    </>
  )
}

function FaultList({ report }: { report: NonNullable<Space['report']> }) {
  return (
    <details className="pt-2">
      <summary className="cursor-pointer">
        {countText(report.records - report.whole)} records are not, or not wholly, in the space
      </summary>
      <ul className="small pt-1">
        {Object.entries(report.faults).map(([what, count]) => (
          <li key={what}>
            {countText(count)}: it {what}
          </li>
        ))}
        {report.examples.map((one) => (
          <li key={one.key} className="quiet">
            <code>{one.key}</code> {one.what}
          </li>
        ))}
      </ul>
    </details>
  )
}

function Acts(props: {
  space: Space
  acting: boolean
  onCancel: () => void
  onCost: () => void
  onFill: () => void
  onConfirm: (what: 'drop' | 'anew') => void
}) {
  const { space } = props
  const { document } = space
  const busy = space.state === 'waiting' || space.state === 'running'
  const unfinished = ['new', 'failed', 'cancelled'].includes(space.state)
  const byFiles = document.source.kind === 'brought' && !document.source.field
  return (
    <>
      {busy ? (
        <Changing>
          <button type="button" className="btn btn-sm" disabled={props.acting} onClick={props.onCancel}>
            Cancel filling
          </button>
        </Changing>
      ) : (
        <>
          {document.source.kind === 'service' && (
            <button type="button" className="link" onClick={props.onCost}>
              Count the cost
            </button>
          )}
          <Changing>
            {(!byFiles || space.model) && (
              <button type="button" className={unfinished ? 'btn btn-sm btn-primary' : 'link'} onClick={props.onFill}>
                {space.state === 'failed' || space.state === 'cancelled'
                  ? 'Go on filling'
                  : space.state === 'new'
                    ? 'Fill it'
                    : 'Fill again'}
              </button>
            )}
            {!byFiles && space.model && document.source.kind !== 'packaged' && (
              <button type="button" className="link" onClick={() => props.onConfirm('anew')}>
                {document.source.kind === 'learned' ? 'Learn anew' : 'Empty and fill anew'}
              </button>
            )}
            <button type="button" className="link" onClick={() => props.onConfirm('drop')}>
              Drop
            </button>
          </Changing>
        </>
      )}
    </>
  )
}

function Facts({ space }: { space: Space }) {
  const { document, report } = space
  return (
    <dl className="small quiet flex flex-wrap gap-x-6 pt-1">
      <Fact name="model">{space.model ?? 'none yet'}</Fact>
      <Fact name="dimensions">{space.dimensions ?? '–'}</Fact>
      {report && (
        <>
          <Fact name="records">{countText(report.records)}</Fact>
          <Fact name="passages">{countText(report.passages)}</Fact>
          <Fact name="missing">{countText(report.records - report.whole)}</Fact>
        </>
      )}
      <Fact name="compared by">{document.similarity}</Fact>
      {space.asked_by.length > 0 && <Fact name="asked by">{space.asked_by.join(', ')}</Fact>}
      {space.behind && <Fact name="behind">records changed since; their vectors follow</Fact>}
    </dl>
  )
}

function Fact({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <div className="flex gap-1">
      <dt>{name}:</dt>
      <dd>{children}</dd>
    </div>
  )
}

// Another version goes live: what its guard rules say is seen before anybody presses the button.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { publish, publishingChecked, type Published } from '../../api/delivery'
import { rankers, type Collection } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { FIELD, Labelled } from '../coming-in/form'

export function PublishForm({ collection, told }: { collection: Collection; told: Published }) {
  const kept = useQuery(rankers(collection.name))
  const [chosen, setChosen] = useState<string | null>(null)
  const [note, setNote] = useState('')
  const [reason, setReason] = useState('')
  const { busy, problem, act } = useDoing('delivery', collection.name)
  if (!kept.data) return <Unanswered asked={[kept]} what="the rankers" />
  const names = kept.data.map((one) => `${one.name}:${one.version}`)
  const live = told.live === null ? null : `${told.live.ranker}:${told.live.version}`
  const wanted = chosen ?? names.find((name) => name !== live) ?? names[0]
  if (wanted === undefined) return <p className="quiet">There is no ranker yet. Keep one in Ranking.</p>
  const [ranker = '', version = ''] = wanted.split(':')
  const isLive = wanted === live
  return (
    <form
      aria-label="Publish a version"
      className="max-w-[560px]"
      onSubmit={(event) => {
        event.preventDefault()
        const body = { ranker, version: Number(version), note, overruled: reason.trim() || null }
        void act(() => publish(collection.name, body), {
          then: () => {
            setNote('')
            setReason('')
            setChosen(null)
          },
        })
      }}
    >
      <Changing needs="own">
        <h2 className="heading quiet pb-2">Publish a version</h2>
        <Labelled label="Version">
          <select className={FIELD} value={wanted} onChange={(event) => setChosen(event.target.value)}>
            {names.map((name) => (
              <option key={name} value={name}>
                {name.replace(':', ' ')}
                {name === live ? ', live now' : ''}
              </option>
            ))}
          </select>
        </Labelled>
        {!isLive && (
          <Checked
            collection={collection}
            ranker={ranker}
            version={Number(version)}
            onReason={setReason}
            reason={reason}
          />
        )}
        <Labelled label="Why">
          <input
            dir="auto"
            className={FIELD}
            maxLength={2_000}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
        </Labelled>
        <button type="submit" className="btn btn-sm btn-primary" disabled={busy || isLive}>
          Publish
        </button>
        {busy && (
          <span role="status" className="quiet small pl-3">
            Making it ready …
          </span>
        )}
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

type Rule = { text: string; holds: boolean; found: string; queries?: { query: string; values: string }[] }

function Checked(props: {
  collection: Collection
  ranker: string
  version: number
  reason: string
  onReason: (reason: string) => void
}) {
  const found = useQuery(publishingChecked(props.collection.name, props.ranker, props.version))
  if (found.data === undefined) return <Unanswered asked={[found]} what="whether the guard rules hold" />
  const rules = (found.data ?? []) as Rule[]
  const broken = rules.filter((one) => !one.holds)
  if (rules.length === 0) return <p className="quiet small pb-3">There is no guard rule to check.</p>
  return (
    <Kept asked={[found]} what="whether the guard rules hold" className="pb-3">
      <ul className="small" aria-label="Guard rules">
        {rules.map((one) => (
          <li key={one.text} className={`wrap-anywhere ${one.holds ? '' : 'loss'}`}>
            {one.holds ? '✓ holds' : '× broken'}: {one.text}, {one.found}
            {!one.holds && one.queries && one.queries.length > 0 && (
              <span className="block pl-4">
                {one.queries
                  .slice(0, 5)
                  .map((query) => `${query.query} ${query.values}`)
                  .join('; ')}
              </span>
            )}
          </li>
        ))}
      </ul>
      {broken.length > 0 && (
        <div className="pt-2">
          <Labelled label="It is to be published all the same, because">
            <input
              dir="auto"
              className={FIELD}
              maxLength={2_000}
              value={props.reason}
              onChange={(event) => props.onReason(event.target.value)}
            />
          </Labelled>
        </div>
      )}
    </Kept>
  )
}

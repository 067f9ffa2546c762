// Rankers that are not ours: a run file, or a search that is asked over HTTP or by SQL.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState, type ChangeEvent } from 'react'
import {
  askOutside,
  bringRun,
  cancelAsking,
  dropOutside,
  outsideRankers,
  putService,
  type Outside,
} from '../../api/comparing'
import type { Collection } from '../../api/queries'
import { renew } from '../../api/subjects'
import { ProblemNote } from '../../parts/notes'
import { letGo, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { Changing } from '../../shell/changing'
import { DatabaseSearchForm } from './database-search-form'
import { Field, INPUT as input } from './outside-field'

type Adding = 'file' | 'service' | 'database'

const ADDING: readonly [Adding, string][] = [
  ['file', 'Bring a run file'],
  ['service', 'Ask over HTTP'],
  ['database', 'Ask a database'],
]

export function OutsidePanel({ collection, set }: { collection: Collection; set: string }) {
  const found = useQuery(outsideRankers(collection.name))
  const { busy, problem, act } = useDoing('measuring', collection.name)
  const client = useQueryClient()
  const held = `outside ${collection.name}/`
  const [adding, setAdding] = useHeld<Adding | null>(`${held}adding`, null)
  // When an asking ends, what was compared with it is compared anew.
  const running = found.data?.some((one) => one.state === 'running') ?? false
  useEffect(() => {
    if (!running) void renew(client, 'measuring', { collection: collection.name })
  }, [running, client, collection.name])
  return (
    <>
      <h2 className="heading quiet pb-1">Outside rankers</h2>
      <p className="quiet small pb-2">
        The search that is in production now can be the baseline: bring its run file, or let it be asked.
      </p>
      {problem && <ProblemNote error={problem} />}
      <Changing>
        <ul>
          {(found.data ?? []).map((one) => (
            <OutsideLine
              key={one.name}
              outside={one}
              set={set}
              busy={busy}
              onAsk={() => act(() => askOutside(collection.name, one.name, set))}
              onCancel={() => act(() => cancelAsking(collection.name, one.name))}
              onDrop={() => act(() => dropOutside(collection.name, one.name))}
            />
          ))}
        </ul>
        <div className="flex flex-wrap gap-2 py-2">
          {ADDING.map(([what, name]) => (
            <button
              key={what}
              type="button"
              className="btn btn-xs"
              onClick={() => setAdding(adding === what ? null : what)}
            >
              {name}
            </button>
          ))}
        </div>
      </Changing>
      {adding === 'file' && (
        <RunForm
          busy={busy}
          onBring={(name, file, text) =>
            act(() => bringRun(collection.name, name, set, file, text)).then((done) => done && letGo(held))
          }
        />
      )}
      {adding === 'database' && (
        <DatabaseSearchForm
          collection={collection.name}
          held={held}
          busy={busy}
          onPut={(name, document) =>
            act(() => putService(collection.name, name, document, {})).then((done) => done && letGo(held))
          }
        />
      )}
      {adding === 'service' && (
        <ServiceForm
          held={held}
          busy={busy}
          onPut={(name, document, secrets) =>
            act(() => putService(collection.name, name, document, secrets)).then((done) => done && letGo(held))
          }
        />
      )}
    </>
  )
}

function OutsideLine(props: {
  outside: Outside
  set: string
  busy: boolean
  onAsk: () => void
  onCancel: () => void
  onDrop: () => void
}) {
  const { outside, set } = props
  const [sure, setSure] = useState(false)
  const lists = outside.lists[set]
  return (
    <li className="line-b py-2" aria-label={outside.name}>
      <div className="flex items-baseline gap-2">
        <b className="min-w-0 flex-1 truncate font-semibold">{outside.name}</b>
        {outside.kind !== 'file' &&
          (outside.state === 'running' ? (
            <button type="button" className="link small" onClick={props.onCancel}>
              cancel
            </button>
          ) : (
            <button type="button" className="link small" disabled={props.busy} onClick={props.onAsk}>
              {lists === undefined ? 'ask it' : 'ask again'}
            </button>
          ))}
        {sure ? (
          <button
            type="button"
            className="link small loss"
            autoFocus
            onBlur={() => setSure(false)}
            onClick={props.onDrop}
          >
            drop it
          </button>
        ) : (
          <button type="button" className="link small" onClick={() => setSure(true)}>
            drop
          </button>
        )}
      </div>
      <p className="quiet small">
        {lists === undefined ? `no lists for ${set} yet` : `lists for ${lists} queries of ${set}`}
      </p>
      {outside.state === 'running' && (
        <progress
          className="progress w-full text-secondary"
          value={outside.done}
          max={outside.in_all}
          aria-label={`Asking ${outside.name}`}
        />
      )}
      {outside.problem && <p className="loss small wrap-anywhere">{outside.problem}</p>}
    </li>
  )
}

function RunForm({ busy, onBring }: { busy: boolean; onBring: (name: string, file: string, text: string) => void }) {
  const [name, setName] = useState('production')
  const [file, setFile] = useState<File | null>(null)
  return (
    <form
      onSubmit={async (event) => {
        event.preventDefault()
        if (file) onBring(name, file.name, await file.text())
      }}
    >
      <Field name="Name">
        <input
          dir="auto"
          aria-label="Name of the outside ranker"
          required
          className={input}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </Field>
      <Field name="Six columns: query, Q0, record, rank, score, tag">
        <input
          type="file"
          required
          aria-label="Run file"
          className="w-full bg-transparent"
          onChange={(event) => setFile(event.target.files?.[0] ?? null)}
        />
      </Field>
      <button type="submit" className="btn btn-sm btn-primary" disabled={busy || !file}>
        Bring it
      </button>
    </form>
  )
}

const SERVICE = {
  name: 'production',
  address: '',
  body: '',
  keys: 'results[].id',
  scores: '',
  top: '100',
  pace: '2',
  header: '',
  secret: '',
}

function ServiceForm(props: {
  held: string
  busy: boolean
  onPut: (name: string, document: Record<string, unknown>, secrets: Record<string, string>) => void
}) {
  const [service, setService] = useHeld(`${props.held}service`, SERVICE)
  const { name, address, body, keys, scores, top, pace, header, secret } = service
  const field = (of: keyof typeof SERVICE) => ({
    value: service[of],
    onChange: (event: ChangeEvent<HTMLInputElement>) => setService({ ...service, [of]: event.target.value }),
  })
  const put = () =>
    props.onPut(
      name,
      {
        kind: 'service',
        address,
        body: body || null,
        keys,
        scores: scores || null,
        top: Number(top),
        pace: Number(pace),
        headers: header ? [header] : [],
      },
      header && secret ? { [header]: secret } : {},
    )
  return (
    <form
      autoComplete="off"
      onSubmit={(event) => {
        event.preventDefault()
        put()
      }}
    >
      <Where field={field} />
      <HowAsked field={field} />
      <button type="submit" className="btn btn-sm btn-primary" disabled={props.busy}>
        Keep
      </button>
    </form>
  )
}

type ServiceField = (of: keyof typeof SERVICE) => {
  value: string
  onChange: (event: ChangeEvent<HTMLInputElement>) => void
}

function Where({ field }: { field: ServiceField }) {
  return (
    <>
      <Field name="Name">
        <input dir="auto" aria-label="Name of the service" required className={input} {...field('name')} />
      </Field>
      <Field name="Address, with {query} and {top} where they go">
        <input
          dir="auto"
          aria-label="Address"
          required
          className={`${input} font-mono`}
          placeholder="https://…/search?q={query}&n={top}"
          {...field('address')}
        />
      </Field>
      <Field name="JSON to post instead, with the same places in it">
        <input
          dir="auto"
          aria-label="Body"
          className={`${input} font-mono`}
          placeholder={'{"text": "{query}"}'}
          {...field('body')}
        />
      </Field>
      <Field name="Where in the answer the keys are">
        <input
          dir="auto"
          aria-label="Where the keys are"
          required
          className={`${input} font-mono`}
          {...field('keys')}
        />
      </Field>
      <Field name="Where the scores are; empty: in the order of the answer">
        <input dir="auto" aria-label="Where the scores are" className={`${input} font-mono`} {...field('scores')} />
      </Field>
    </>
  )
}

function HowAsked({ field }: { field: ServiceField }) {
  return (
    <div className="grid grid-cols-2 items-end gap-3">
      <Field name="Records asked for">
        <input aria-label="Records asked for" type="number" min={1} max={1000} className={input} {...field('top')} />
      </Field>
      <Field name="Questions a second">
        <input
          aria-label="Questions a second"
          type="number"
          min={0.1}
          max={100}
          step={0.1}
          className={input}
          {...field('pace')}
        />
      </Field>
      <Field name="A header, if it wants one">
        <input dir="auto" aria-label="Header" className={input} placeholder="Authorization" {...field('header')} />
      </Field>
      <Field name="What it holds, shown to nobody">
        <input
          aria-label="What the header holds"
          type="password"
          autoComplete="new-password"
          className={input}
          {...field('secret')}
        />
      </Field>
    </div>
  )
}

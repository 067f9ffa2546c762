// A live database's own search as an outside ranker: a statement that gives keys for a query.
import { useQuery } from '@tanstack/react-query'
import type { ChangeEvent } from 'react'
import { Link } from 'react-router'
import { connections } from '../../api/following'
import { useHeld } from '../../parts/use-held'
import { carried, useAddress } from '../../shell/address'
import { Field, INPUT } from './outside-field'

const FRESH = { name: 'live', connection: '', statement: '', top: '100', seconds: '10' }

export function DatabaseSearchForm(props: {
  collection: string
  held: string
  busy: boolean
  onPut: (name: string, document: Record<string, unknown>) => void
}) {
  const known = useQuery(connections(props.collection))
  const [typed, setTyped] = useHeld(`${props.held}database`, FRESH)
  const { params } = useAddress()
  const field = (of: keyof typeof FRESH) => ({
    value: typed[of],
    onChange: (event: ChangeEvent<HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement>) =>
      setTyped({ ...typed, [of]: event.target.value }),
  })
  if (known.data?.length === 0)
    return (
      <p className="pb-2">
        No connection is kept yet.{' '}
        <Link className="link" to={`/${props.collection}/records${carried(params, { view: 'following' })}`}>
          Keep one under Records, In step.
        </Link>
      </p>
    )
  return (
    <form
      aria-label="Ask a database"
      onSubmit={(event) => {
        event.preventDefault()
        const { name, connection, statement, top, seconds } = typed
        props.onPut(name, { kind: 'database', connection, statement, top: Number(top), seconds: Number(seconds) })
      }}
    >
      <Field name="Name">
        <input dir="auto" aria-label="Name of the database’s search" required className={INPUT} {...field('name')} />
      </Field>
      <Field name="Connection">
        <select required className={INPUT} {...field('connection')}>
          <option value="">choose one</option>
          {(known.data ?? []).map((one) => (
            <option key={one.name} value={one.name}>
              {one.name}: {one.title}
            </option>
          ))}
        </select>
      </Field>
      <Field name="A SELECT with {query} where the query goes, without quotes; a key, and a score if there is one">
        <textarea
          dir="auto"
          required
          rows={5}
          spellCheck={false}
          className="textarea textarea-sm w-full border-base-300 bg-transparent font-mono text-[13px]"
          placeholder={"select id from articles where title ilike '%' || {query} || '%' order by id"}
          {...field('statement')}
        />
      </Field>
      <div className="grid grid-cols-2 gap-3">
        <Field name="Records asked for">
          <input type="number" min={1} max={1000} required className={INPUT} {...field('top')} />
        </Field>
        <Field name="Seconds it may take">
          <input type="number" min={0.1} max={120} step={0.1} required className={INPUT} {...field('seconds')} />
        </Field>
      </div>
      <button type="submit" className="btn btn-sm btn-primary" disabled={props.busy}>
        Keep
      </button>
    </form>
  )
}

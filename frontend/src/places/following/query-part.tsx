// Which query: drafted from the tables and what refers to what, or written by hand; and which records a changed row of
// each table belongs to.
import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { catalogue, draftQuery, type JoinDrafted } from '../../api/following'
import { ProblemNote } from '../../parts/notes'
import { countText } from '../../thinking/figures'
import { FIELD, Labelled } from '../coming-in/form'
import type { Said } from './saying'

type Props = {
  collection: string
  isPostgreSQL: boolean
  said: Said
  busy: boolean
  onSay: (change: Partial<Said>) => void
  onDraft: (table: string, joins: string[] | null) => void
  onLook: () => void
}

export function QueryPart(props: Props) {
  const { said, busy, onSay, onLook, isPostgreSQL } = props
  return (
    <form
      aria-label="Query"
      onSubmit={(event) => {
        event.preventDefault()
        onLook()
      }}
    >
      <h2 className="heading quiet pb-1">Query</h2>
      {isPostgreSQL && <Draft {...props} />}
      <label className="block pt-2">
        <span className="quiet small block">A SELECT; each row of it becomes a record</span>
        <textarea
          dir="auto"
          required
          rows={Math.min(18, Math.max(5, said.query.split('\n').length))}
          spellCheck={false}
          className="textarea w-full border-base-300 bg-transparent font-mono text-[13px] leading-[1.45]"
          value={said.query}
          onChange={(event) => onSay({ query: event.target.value })}
        />
      </label>
      <div className="grid gap-x-4 pt-2 sm:grid-cols-2">
        <Labelled label="The column of it that names a record">
          <input
            dir="auto"
            required
            spellCheck={false}
            className={`${FIELD} font-mono`}
            value={said.key}
            onChange={(event) => onSay({ key: event.target.value })}
          />
        </Labelled>
        <Labelled label="A column that tells when a row changed, if there is one">
          <input
            dir="auto"
            spellCheck={false}
            className={`${FIELD} font-mono`}
            placeholder="none"
            value={said.changedAt}
            onChange={(event) => onSay({ changedAt: event.target.value })}
          />
        </Labelled>
      </div>
      {isPostgreSQL && <Owners tables={said.tables} onTables={(tables) => onSay({ tables })} />}
      <button type="submit" className="btn btn-sm" disabled={busy}>
        {busy ? 'Looking …' : 'Look at the first rows'}
      </button>
    </form>
  )
}

function Draft({ collection, said, busy, onSay, onDraft }: Props) {
  const found = useQuery(catalogue(collection, said.connection))
  const [ways, setWays] = useState<JoinDrafted['reachable']>([])
  const { connection, table, joins } = said
  useEffect(() => {
    if (!table) return
    let isWanted = true
    draftQuery(collection, connection, table, joins).then(
      (told) => isWanted && setWays(told.reachable),
      () => undefined,
    )
    return () => {
      isWanted = false
    }
  }, [collection, connection, table, joins])
  if (found.isError) return <ProblemNote error={found.error} />
  if (!found.data) return <p className="quiet">Reading its tables …</p>
  const chosen = joins ?? []
  return (
    <div>
      <div className="flex flex-wrap items-center gap-3">
        <select
          aria-label="Table whose rows are the records"
          className="boxed w-auto max-w-full bg-transparent pr-8"
          value={table}
          disabled={busy}
          onChange={(event) =>
            event.target.value ? onDraft(event.target.value, null) : onSay({ table: '', joins: null })
          }
        >
          <option value="">draft it from a table …</option>
          {found.data.tables.map((one) => {
            const name = `${one.schema}.${one.name}`
            return (
              <option key={name} value={name}>
                {name}
                {one.rows !== null && `, about ${countText(one.rows)} rows`}
              </option>
            )
          })}
        </select>
        {found.data.tables.length === 0 && <span className="loss">This role may read no table.</span>}
        {found.data.more && <span className="quiet small">There are more tables than are told.</span>}
      </div>
      {table && ways.length > 0 && (
        <fieldset className="pt-2">
          <legend className="quiet small">Joined with it</legend>
          <ul className="grid gap-x-6 sm:grid-cols-2">
            {ways.map((one) => (
              <li key={one.name}>
                <label className="flex min-h-6 items-center gap-2">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    disabled={busy}
                    checked={chosen.includes(one.name)}
                    onChange={(event) =>
                      onDraft(
                        table,
                        event.target.checked ? [...chosen, one.name] : chosen.filter((name) => name !== one.name),
                      )
                    }
                  />
                  <span className="wrap-anywhere" title={one.name}>
                    {one.table}
                    {one.through.length > 0 && <span className="quiet"> by {one.through.join(', ')}</span>}
                    <span className="quiet small">
                      {' '}
                      {one.how_many === 'several' ? 'several to a record' : 'one to a record'}
                    </span>
                  </span>
                </label>
              </li>
            ))}
          </ul>
        </fieldset>
      )}
    </div>
  )
}

type Tables = Said['tables']

function Owners({ tables, onTables }: { tables: Tables; onTables: (tables: Tables) => void }) {
  const put = (number: number, change: Partial<Tables[number]>) =>
    onTables(tables.map((one, i) => (i === number ? { ...one, ...change } : one)))
  return (
    <fieldset className="pb-3">
      <legend className="quiet small">
        Tables that it reads, and the keys of the records that a row of each belongs to; {'{column}'} is the row’s own
      </legend>
      {tables.map((one, number) => (
        <div key={number} className="row-stack grid grid-cols-[180px_minmax(0,1fr)_auto] items-start gap-2 pb-1">
          <input
            dir="auto"
            aria-label={`Table ${number + 1}`}
            required
            spellCheck={false}
            className={`${FIELD} font-mono text-[13px]`}
            value={one.name}
            onChange={(event) => put(number, { name: event.target.value })}
          />
          <textarea
            dir="auto"
            aria-label={`Keys that a row of ${one.name || 'it'} belongs to`}
            required
            rows={Math.max(1, one.owners.split('\n').length)}
            spellCheck={false}
            className="textarea textarea-sm min-h-8 w-full border-base-300 bg-transparent font-mono text-[13px]"
            value={one.owners}
            onChange={(event) => put(number, { owners: event.target.value })}
          />
          <button
            type="button"
            className="btn btn-ghost btn-sm font-normal"
            onClick={() => onTables(tables.filter((_, i) => i !== number))}
          >
            Leave out
          </button>
        </div>
      ))}
      <button
        type="button"
        className="btn btn-ghost btn-xs font-normal"
        onClick={() => onTables([...tables, { name: '', owners: 'select {id}' }])}
      >
        Name a table
      </button>
    </fieldset>
  )
}

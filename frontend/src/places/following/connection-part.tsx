// By which connection: one that is kept, or a new one. What it holds as a password is shown to nobody.
import { useState, type ChangeEvent } from 'react'
import { dropConnection, putConnection, tryConnection, type Connection } from '../../api/following'
import { ProblemNote } from '../../parts/notes'
import { letGo, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { FIELD, Labelled } from '../coming-in/form'

type Props = {
  collection: string
  connections: Connection[]
  chosen: string
  onChoose: (name: string) => void
}

export function ConnectionPart({ collection, connections, chosen, onChoose }: Props) {
  const { busy, problem, act } = useDoing('following', collection)
  const [answer, setAnswer] = useState('')
  const [adding, setAdding] = useHeld(`connection ${collection}/adding`, false)
  const own = connections.find((one) => one.name === chosen)
  const attempt = (name: string) => {
    setAnswer('')
    void act(() => tryConnection(collection, name), {
      then: (found) => setAnswer(`It answers: ${found.version}, in ${Math.round(found.elapsed_ms)} ms.`),
    })
  }
  return (
    <section aria-label="Connection">
      <h2 className="heading quiet pb-1">Connection</h2>
      <div className="flex flex-wrap items-center gap-3">
        <select
          aria-label="Connection"
          className="boxed w-auto bg-transparent pr-8"
          value={chosen}
          onChange={(event) => {
            setAnswer('')
            onChoose(event.target.value)
          }}
        >
          <option value="">{connections.length === 0 ? 'none is kept yet' : 'choose one'}</option>
          {connections.map((one) => (
            <option key={one.name} value={one.name}>
              {one.name}: {one.title}
            </option>
          ))}
        </select>
        {own && (
          <>
            <button type="button" className="btn btn-sm" disabled={busy} onClick={() => attempt(own.name)}>
              Try it
            </button>
            {!own.followed && (
              <button
                type="button"
                className="btn btn-ghost btn-sm font-normal"
                disabled={busy}
                onClick={() =>
                  void act(() => dropConnection(collection, own.name), { then: () => onChoose(''), gone: own.name })
                }
              >
                Forget it
              </button>
            )}
          </>
        )}
        <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={() => setAdding(!adding)}>
          {own ? 'Another one, or this one anew' : 'A new connection'}
        </button>
        <span role="status" className="small gain">
          {answer}
        </span>
      </div>
      {problem && <ProblemNote error={problem} />}
      {(adding || connections.length === 0) && (
        <ConnectionForm
          collection={collection}
          onKept={(name) => {
            setAdding(false)
            onChoose(name)
            attempt(name)
          }}
        />
      )}
    </section>
  )
}

const FRESH = {
  name: 'live',
  kind: 'postgresql',
  host: '',
  port: '',
  database: '',
  user: '',
  password: '',
  sslmode: 'prefer',
  path: '',
}

type Typed = typeof FRESH

function documentOf(typed: Typed): Record<string, unknown> {
  const { kind, host, port, database, user, sslmode, path } = typed
  if (kind === 'sqlite') return { kind, path }
  const own = { kind, host, database, user, ...(port ? { port: Number(port) } : {}) }
  return kind === 'mysql' ? { ...own, encrypted: sslmode === 'require' } : { ...own, sslmode }
}

function ConnectionForm({ collection, onKept }: { collection: string; onKept: (name: string) => void }) {
  const held = `connection ${collection}/`
  const [typed, setTyped] = useHeld<Typed>(`${held}typed`, FRESH)
  const { busy, problem, act } = useDoing('following', collection)
  const field = (of: keyof Typed) => ({
    value: typed[of],
    onChange: (event: ChangeEvent<HTMLInputElement | HTMLSelectElement>) =>
      setTyped({ ...typed, [of]: event.target.value }),
  })
  return (
    <form
      aria-label="A new connection"
      autoComplete="off"
      className="grid max-w-[760px] gap-x-4 pt-3 sm:grid-cols-2"
      onSubmit={(event) => {
        event.preventDefault()
        void act(() => putConnection(collection, typed.name, documentOf(typed), typed.password), {
          then: () => {
            letGo(held)
            onKept(typed.name)
          },
        })
      }}
    >
      <Labelled label="Name">
        <input dir="auto" required maxLength={63} className={FIELD} {...field('name')} />
      </Labelled>
      <Labelled label="Kind">
        <select className={FIELD} {...field('kind')}>
          <option value="postgresql">PostgreSQL</option>
          <option value="mysql">MySQL or MariaDB</option>
          <option value="sqlite">SQLite</option>
        </select>
      </Labelled>
      {typed.kind === 'sqlite' ? (
        <Labelled label="File on the server’s machine">
          <input dir="auto" required spellCheck={false} className={`${FIELD} font-mono`} {...field('path')} />
        </Labelled>
      ) : (
        <ServerFields kind={typed.kind} field={field} />
      )}
      <div className="flex items-center gap-3 sm:col-span-2">
        <button type="submit" className="btn btn-primary btn-sm" disabled={busy}>
          Keep and try it
        </button>
        <span className="quiet small">A role that may only SELECT is enough. The password is kept sealed.</span>
      </div>
      {problem && <ProblemNote error={problem} />}
    </form>
  )
}

type FieldOf = (of: keyof Typed) => {
  value: string
  onChange: (event: ChangeEvent<HTMLInputElement | HTMLSelectElement>) => void
}

function ServerFields({ kind, field }: { kind: string; field: FieldOf }) {
  return (
    <>
      <Labelled label="Host">
        <input
          dir="auto"
          required
          spellCheck={false}
          className={FIELD}
          placeholder="db.example.org"
          {...field('host')}
        />
      </Labelled>
      <Labelled label="Port">
        <input
          dir="auto"
          inputMode="numeric"
          pattern="[0-9]*"
          className={FIELD}
          placeholder={kind === 'mysql' ? '3306' : '5432'}
          {...field('port')}
        />
      </Labelled>
      <Labelled label="Database">
        <input dir="auto" required spellCheck={false} className={FIELD} {...field('database')} />
      </Labelled>
      <Labelled label="Encryption">
        <select className={FIELD} {...field('sslmode')}>
          <option value="prefer">where it can be had</option>
          <option value="require">always</option>
          {kind === 'postgresql' && <option value="verify-full">always, and by its certificate</option>}
          {kind === 'postgresql' && <option value="disable">never</option>}
        </select>
      </Labelled>
      <Labelled label="User">
        <input dir="auto" required spellCheck={false} autoComplete="off" className={FIELD} {...field('user')} />
      </Labelled>
      <Labelled label="Password">
        <input dir="auto" type="password" autoComplete="new-password" className={FIELD} {...field('password')} />
      </Labelled>
    </>
  )
}

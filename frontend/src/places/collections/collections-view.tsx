// Collections side by side: made, renamed, copied, dropped. Dropping is asked once, by name.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { collections, type Collection } from '../../api/queries'
import { copyCollection, dropCollection, makeCollection, renameCollection } from '../../api/records'
import { Loading, ProblemNote } from '../../parts/notes'
import { countText } from '../../thinking/figures'
import { useDoing } from '../../shell/use-doing'

type Deed = { collection: string; does: 'copy' | 'rename' | 'drop' }
const WORDS = { copy: 'Copy', rename: 'Rename', drop: 'Drop' }

export function CollectionsView({ collection }: { collection: Collection }) {
  const all = useQuery(collections())
  const client = useQueryClient()
  const navigate = useNavigate()
  const [deed, setDeed] = useState<Deed | null>(null)
  const [name, setName] = useState('')
  const { busy, problem, act, forget } = useDoing('everything')
  const doIt = ({ does, collection: of }: Deed) =>
    act(
      async () => {
        if (does === 'copy') return (await copyCollection(of, name)).name
        if (does === 'rename') return (await renameCollection(of, name)).name
        await dropCollection(name)
        return ''
      },
      {
        then: (result) => {
          // First of all: what is begun while the lists are fetched must not be closed.
          setDeed(null)
          if (does === 'copy') return
          client.setQueryData(collections().queryKey, (known) =>
            known?.flatMap((one) => (one.name !== of ? [one] : does === 'rename' ? [{ ...one, name: result }] : [])),
          )
          if (of === collection.name)
            navigate(does === 'rename' ? `/${result}/records?view=collections` : '/', { replace: true })
        },
        gone: does === 'copy' ? undefined : of,
      },
    )
  const begin = (does: Deed['does'], of: string) => {
    forget()
    setName(does === 'rename' ? of : '')
    setDeed({ collection: of, does })
  }
  if (!all.data) return <Loading what="the collections" />
  const ready =
    deed !== null && (deed.does === 'drop' ? name === deed.collection : name !== '' && name !== deed.collection)
  return (
    <section aria-label="Collections" className="h-full overflow-y-auto">
      <Rows all={all.data} here={collection.name} onBegin={begin} />
      {deed && (
        <DeedForm
          deed={deed}
          name={name}
          onName={setName}
          ready={ready && !busy}
          onDo={() => void doIt(deed)}
          onLeave={() => setDeed(null)}
        />
      )}
      {problem && <ProblemNote error={problem} />}
      <MakeForm />
    </section>
  )
}

function Rows(props: { all: Collection[]; here: string; onBegin: (does: Deed['does'], of: string) => void }) {
  const navigate = useNavigate()
  return (
    <table className="w-full border-collapse text-left">
      <thead>
        <tr className="line-b quiet small">
          <th className="py-2 pr-2 pl-4 font-normal">Collection</th>
          <th className="px-2 text-right font-normal">Records</th>
          <th className="px-2 text-right font-normal">Fields</th>
          <th className="px-2 text-right font-normal">Revision</th>
          <th className="px-2 font-normal">Default ranker</th>
          <th className="px-2 font-normal">Judged sets</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {props.all.map((one) => (
          <tr key={one.name} className={`line-b ${one.name === props.here ? 'bg-base-200' : ''}`}>
            <td className="py-2 pr-2 pl-4">
              <button
                type="button"
                className="link font-semibold no-underline hover:underline"
                onClick={() => navigate(`/${one.name}/records`)}
              >
                {one.name}
              </button>
            </td>
            <td className="figure px-2">{countText(one.records)}</td>
            <td className="figure px-2">{one.fields.length}</td>
            <td className="figure px-2">{one.revision}</td>
            <td className="px-2">{one.default_ranker ?? <span className="quiet">none</span>}</td>
            <td className="px-2">{one.judged_sets.join(', ') || <span className="quiet">none</span>}</td>
            <td className="px-2 text-right whitespace-nowrap">
              {(['copy', 'rename', 'drop'] as const).map((does) => (
                <button
                  key={does}
                  type="button"
                  aria-label={`${WORDS[does]} ${one.name}`}
                  className="btn btn-ghost btn-xs font-normal"
                  onClick={() => props.onBegin(does, one.name)}
                >
                  {WORDS[does]}
                </button>
              ))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function DeedForm(props: {
  deed: Deed
  name: string
  onName: (name: string) => void
  ready: boolean
  onDo: () => void
  onLeave: () => void
}) {
  const { deed } = props
  return (
    <form
      className="line-b flex items-center gap-3 px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault()
        if (props.ready) props.onDo()
      }}
    >
      <label className="flex items-center gap-3">
        {deed.does === 'drop' ? (
          <span>
            Dropping <b>{deed.collection}</b> removes its records, rankers and judged sets for good. Type its name:
          </span>
        ) : (
          <span>
            {deed.does === 'copy' ? 'Copy' : 'Rename'} <b>{deed.collection}</b> to
          </span>
        )}
        <input
          aria-label="Name"
          autoFocus
          maxLength={63}
          className="input input-sm w-[220px] border-base-300 bg-transparent"
          value={props.name}
          onChange={(event) => props.onName(event.target.value)}
          onKeyDown={(event) => event.key === 'Escape' && props.onLeave()}
        />
      </label>
      <button
        type="submit"
        className={`btn btn-sm ${deed.does === 'drop' ? 'btn-error' : 'btn-primary'}`}
        disabled={!props.ready}
      >
        {WORDS[deed.does]}
      </button>
      <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={props.onLeave}>
        Cancel
      </button>
    </form>
  )
}

function MakeForm() {
  const navigate = useNavigate()
  const [made, setMade] = useState('')
  const making = useDoing('collections')
  const make = async () => {
    const result = await making.act(() => makeCollection(made))
    if (result) navigate(`/${result.name}/records?view=import`)
  }
  return (
    <>
      <form
        className="flex items-center gap-3 px-4 py-3"
        onSubmit={(event) => {
          event.preventDefault()
          if (made !== '') void make()
        }}
      >
        <label className="flex items-center gap-3">
          <span className="quiet">Another collection</span>
          <input
            aria-label="Name of the new collection"
            placeholder="small letters, digits, - and _"
            maxLength={63}
            className="input input-sm w-[240px] border-base-300 bg-transparent"
            value={made}
            onChange={(event) => setMade(event.target.value)}
          />
        </label>
        <button type="submit" className="btn btn-sm" disabled={made === '' || making.busy}>
          Make it
        </button>
      </form>
      {making.problem && <ProblemNote error={making.problem} />}
    </>
  )
}

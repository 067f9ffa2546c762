// Collections side by side: made, renamed, copied, dropped. Dropping is asked once, by name.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { collections, type Collection } from '../../api/queries'
import { copyCollection, dropCollection, makeCollection, renameCollection } from '../../api/records'
import { Loading, ProblemNote } from '../../parts/notes'
import { TakeAway } from '../../parts/take-away'
import { countText } from '../../thinking/figures'
import { letGo, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { Changing } from '../../shell/changing'

type Deed = { collection: string; does: 'copy' | 'rename' | 'drop' }
const WORDS = { copy: 'Copy', rename: 'Rename', drop: 'Drop' }

export function CollectionsView({ collection }: { collection: Collection }) {
  const all = useQuery(collections())
  const [deed, setDeed] = useState<Deed | null>(null)
  if (!all.data) return <Loading what="the collections" />
  return (
    <section aria-label="Collections" className="h-full overflow-y-auto">
      <Rows all={all.data} here={collection.name} onBegin={(does, of) => setDeed({ collection: of, does })} />
      {deed && (
        <DeedForm
          key={`${deed.does} ${deed.collection}`}
          deed={deed}
          here={collection.name}
          // Whoever has begun another meanwhile keeps that one.
          onLeave={() => setDeed((now) => (now === deed ? null : now))}
        />
      )}
      <MakeForm />
    </section>
  )
}

const collectionsTable = (all: Collection[]) => [
  ['collection', 'records', 'fields', 'revision', 'default ranker', 'judged sets'],
  ...all.map((one) => [
    ...[one.name, one.records, one.fields.length, one.revision],
    ...[one.default_ranker ?? '', one.judged_sets.join(', ')],
  ]),
]

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
          <th className="px-2 text-right">
            <TakeAway what="the collections" file="collections" rows={() => collectionsTable(props.all)} />
          </th>
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
                <Changing key={does} of={one.name} needs={does === 'copy' ? 'make' : 'own'}>
                  <button
                    type="button"
                    aria-label={`${WORDS[does]} ${one.name}`}
                    className="btn btn-ghost btn-xs font-normal"
                    onClick={() => props.onBegin(does, one.name)}
                  >
                    {WORDS[does]}
                  </button>
                </Changing>
              ))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

// What is done, and what the page shows of it at once.
function useDeed({ does, collection: of }: Deed, here: string, onDone: () => void) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const { act, ...doing } = useDoing('everything')
  const work = async (name: string) => {
    if (does === 'copy') return (await copyCollection(of, name)).name
    if (does === 'rename') return (await renameCollection(of, name)).name
    await dropCollection(name)
    return ''
  }
  const then = (result: string) => {
    onDone()
    if (does === 'copy') return
    client.setQueryData(collections().queryKey, (known) =>
      known?.flatMap((one) => (one.name !== of ? [one] : does === 'rename' ? [{ ...one, name: result }] : [])),
    )
    if (of === here) navigate(does === 'rename' ? `/${result}/records?view=collections` : '/', { replace: true })
  }
  return { ...doing, doIt: (name: string) => act(() => work(name), { then, gone: does === 'copy' ? undefined : of }) }
}

// Each deed is a form of its own: what is begun while the lists of the one before are fetched waits for nothing.
function DeedForm({ deed, here, onLeave }: { deed: Deed; here: string; onLeave: () => void }) {
  const [name, setName] = useState(deed.does === 'rename' ? deed.collection : '')
  const { busy, problem, doIt } = useDeed(deed, here, onLeave)
  const ready = !busy && (deed.does === 'drop' ? name === deed.collection : name !== '' && name !== deed.collection)
  return (
    <>
      <form
        className="line-b flex flex-wrap items-center gap-3 px-4 py-3"
        onSubmit={(event) => {
          event.preventDefault()
          if (ready) void doIt(name)
        }}
      >
        <label className="flex items-center gap-3">
          <DeedWords deed={deed} />
          <input
            dir="auto"
            aria-label="Name"
            autoFocus
            maxLength={63}
            className="input input-sm w-[220px] border-base-300 bg-transparent"
            value={name}
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => event.key === 'Escape' && onLeave()}
          />
        </label>
        <button
          type="submit"
          className={`btn btn-sm ${deed.does === 'drop' ? 'btn-error' : 'btn-primary'}`}
          disabled={!ready}
        >
          {WORDS[deed.does]}
        </button>
        <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={onLeave}>
          Cancel
        </button>
      </form>
      {problem && <ProblemNote error={problem} />}
    </>
  )
}

function DeedWords({ deed }: { deed: Deed }) {
  if (deed.does === 'drop')
    return (
      <span>
        Dropping <b>{deed.collection}</b> removes its records, rankers and judged sets for good. Type its name:
      </span>
    )
  return (
    <span>
      {WORDS[deed.does]} <b>{deed.collection}</b> to
    </span>
  )
}

function MakeForm() {
  const navigate = useNavigate()
  const held = 'collections/'
  const [made, setMade] = useHeld(`${held}made`, '')
  const making = useDoing('collections')
  const make = async () => {
    const result = await making.act(() => makeCollection(made))
    if (!result) return
    letGo(held)
    navigate(`/${result.name}/records?view=import`)
  }
  return (
    <>
      <form
        className="flex flex-wrap items-center gap-3 px-4 py-3"
        onSubmit={(event) => {
          event.preventDefault()
          if (made !== '') void make()
        }}
      >
        <Changing needs="make">
          <label className="flex items-center gap-3">
            <span className="quiet">Another collection</span>
            <input
              dir="auto"
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
        </Changing>
      </form>
      {making.problem && <ProblemNote error={making.problem} />}
    </>
  )
}

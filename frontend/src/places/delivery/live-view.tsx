// Which version answers, since when and by whom; another one published, or the former one again.
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { goBack, published, type Publication, type Published } from '../../api/delivery'
import type { Collection } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { TakeTable } from '../../parts/take-table'
import { carried, useAddress } from '../../shell/address'
import { Changing } from '../../shell/changing'
import { typing, useKeys } from '../../shell/keys'
import { useDoing } from '../../shell/use-doing'
import { useRights } from '../../shell/use-me'
import { calledAs } from '../../thinking/delivery'
import { whenText } from '../../thinking/revisions'
import { CandidatePanel } from './candidate-panel'
import type { DeliveryProps } from './delivery-props'
import { PublishForm } from './publish-form'
import { RulesForm } from './rules-form'

export function LiveView({ collection }: DeliveryProps) {
  const found = useQuery(published(collection.name))
  if (!found.data) return <Unanswered asked={[found]} what="what is live" />
  return (
    <Kept asked={[found]} what="what is live">
      <div className="grid grid-cols-[minmax(0,1fr)] gap-x-10 gap-y-6 px-4 py-4 lg:grid-cols-[minmax(0,1fr)_minmax(0,420px)]">
        <div className="flex min-w-0 flex-col gap-6">
          <LiveNow collection={collection} told={found.data} />
          <PublishForm collection={collection} told={found.data} />
          <History collection={collection} told={found.data} />
        </div>
        <div className="flex min-w-0 flex-col gap-6">
          <CandidatePanel collection={collection} told={found.data} />
          <RulesForm collection={collection} settings={found.data.settings} />
        </div>
      </div>
    </Kept>
  )
}

type Shown = { collection: Collection; told: Published }

function LiveNow({ collection, told }: Shown) {
  const { busy, problem, act } = useDoing('delivery', collection.name)
  const rights = useRights(collection.name)
  const before = told.history.find((one) => one.place === 'live' && one.ranker !== null && !isSame(one, told.live))
  const back = () => void act(() => goBack(collection.name))
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey || event.key !== 'b') return
    if (before && rights.own && !busy) back()
  })
  return (
    <section aria-label="Live now">
      <h2 className="heading quiet pb-1">Live now</h2>
      {told.live === null ? (
        <p>
          Nothing is published yet: the search endpoint of {collection.name} has nothing to answer with. Publish a
          version below.
        </p>
      ) : (
        <>
          <p className="text-lg font-semibold">
            <RankerLink collection={collection} one={told.live} />
          </p>
          <p className="quiet">
            since {whenText(told.live.at)}
            {told.live.by_person && `, by ${told.live.by_person}`}
          </p>
          {told.live.note && <p className="max-w-[70ch] pt-1 wrap-anywhere">{told.live.note}</p>}
          {told.live.overruled && (
            <p className="loss max-w-[70ch] pt-1 wrap-anywhere">
              Published although guard rules are broken: {told.live.overruled}
            </p>
          )}
        </>
      )}
      {before && (
        <Changing needs="own">
          <p className="pt-2">
            <button type="button" className="btn btn-sm" disabled={busy} title="b" onClick={back}>
              Back to {calledAs(before)}
            </button>
          </p>
        </Changing>
      )}
      {problem && <ProblemNote error={problem} />}
    </section>
  )
}

const isSame = (one: Publication, other: Publication | null) =>
  one.ranker === other?.ranker && one.version === other?.version

function RankerLink({ collection, one }: { collection: Collection; one: Publication }) {
  const { params } = useAddress()
  if (one.ranker === null) return <>none</>
  const without = new URLSearchParams(params)
  without.delete('d')
  return (
    <Link
      className="link"
      to={`/${collection.name}/ranking${carried(without, { ranker: `${one.ranker}:${one.version}` })}`}
    >
      {calledAs(one)}
    </Link>
  )
}

function History({ collection, told }: Shown) {
  if (told.history.length === 0) return null
  return (
    <section aria-label="Published before">
      <div className="flex items-baseline gap-3 pb-1">
        <h2 className="heading quiet flex-1">Published</h2>
        <TakeTable what="what was published" file={`${collection.name}-published`} />
      </div>
      <div className="overflow-x-auto">
        <table className="w-full min-w-[560px] text-left">
          <thead>
            <tr className="quiet small line-b">
              {['when', 'as', 'version', 'by', 'why'].map((name) => (
                <th key={name} scope="col" className="py-1 pr-4 font-normal">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {told.history.map((one) => (
              <tr key={one.id} className="line-b align-baseline">
                <td className="quiet small py-1 pr-4 whitespace-nowrap">{whenText(one.at)}</td>
                <td className="small pr-4">{one.place}</td>
                <td className="pr-4 whitespace-nowrap">
                  <RankerLink collection={collection} one={one} />
                </td>
                <td className="small pr-4">{one.by_person}</td>
                <td className="small min-w-40 wrap-anywhere">
                  {one.note}
                  {one.overruled && <span className="loss block">although rules are broken: {one.overruled}</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}

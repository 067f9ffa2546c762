// Two rankers head to head: gain, luck, waterline, scatter, slices, losses, what to judge next, what was changed.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { compared, type HeadToHead, type Pair } from '../../api/comparing'
import type { Collection } from '../../api/queries'
import { Delta } from '../../parts/delta'
import { Differences } from '../../parts/differences'
import { Kept, Unanswered } from '../../parts/answered'
import { Empty } from '../../parts/notes'
import { TakeTable } from '../../parts/take-table'
import { useAddress } from '../../shell/address'
import { byLoss, detectableText, pText, shareText, sliceText } from '../../thinking/comparing'
import { countText, deltaText, measureText } from '../../thinking/figures'
import { parsedHow } from '../../thinking/how'
import type { NamedSide } from '../../thinking/sides'
import { HeadPlots } from './head-plots'
import { JudgeNext } from './judge-next'
import { PairBar } from './pair-bar'
import { useOpening } from './use-opening'
import { usePair } from './use-pair'

export function HeadView({ collection, set }: { collection: Collection; set: string }) {
  const { there, chosen, pair, measure, ready, outside } = usePair(collection, set)
  const [locked, setLocked] = useState<Pair | null>(null)
  const [sure, setSure] = useState(false)
  // The opening is for the pair that it was asked for, and for no other.
  const opened =
    locked !== null &&
    pair !== null &&
    JSON.stringify({ ...locked, how: { ...locked.how, part: 'open' } }) === JSON.stringify(pair)
  const wanted = opened ? locked : pair
  const found = useQuery({
    ...compared(collection.name, set, wanted),
    // To look at locked queries again is to open them again.
    ...(opened ? { staleTime: Infinity, refetchOnWindowFocus: false } : {}),
  })
  if (!ready) return <Unanswered asked={[outside]} what="the rankers" />
  if (!chosen || !pair) {
    return (
      <Empty title="Only one ranker">
        Keep another version in Ranking, turn a knob there, or bring an outside ranker under Rankers: then there are two
        to compare.
      </Empty>
    )
  }
  return (
    <div className="flex h-full flex-col">
      <PairBar there={there} chosen={chosen} measure={measure}>
        {found.data &&
          found.data.locked > 0 &&
          !opened &&
          (sure ? (
            <button
              type="button"
              className="btn btn-sm btn-primary"
              autoFocus
              onBlur={() => setSure(false)}
              onClick={() => {
                setLocked({ ...pair, how: { ...pair.how, part: 'locked' } })
                setSure(false)
              }}
            >
              Open {found.data.locked} locked queries; the diary notes it
            </button>
          ) : (
            <button type="button" className="btn btn-sm" onClick={() => setSure(true)}>
              Open the locked ones …
            </button>
          ))}
        {opened && (
          <button type="button" className="btn btn-sm" onClick={() => setLocked(null)}>
            Back to the open ones
          </button>
        )}
      </PairBar>
      <div className="min-h-0 flex-1 overflow-y-auto">
        {found.data ? (
          <Kept asked={[found]} what="both lists of every query">
            <Facts collection={collection} set={set} found={found.data} sides={chosen} />
          </Kept>
        ) : (
          <Unanswered asked={[found]} what="both lists of every query" />
        )}
      </div>
    </div>
  )
}

function Facts({
  collection,
  set,
  found,
  sides,
}: {
  collection: Collection
  set: string
  found: HeadToHead
  sides: [NamedSide, NamedSide]
}) {
  const open = useOpening(collection, sides)
  const losses = byLoss(found.queries)
  const worse = losses.filter((one) => one.second < one.first - 0.0005)
  const better = [...losses].reverse().filter((one) => one.second > one.first + 0.0005)
  const { weighted } = parsedHow(useAddress().params.get('rules'))
  return (
    <div className="panes grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-8 px-4 py-3">
      <Difference found={found} weighted={weighted} sides={sides} />
      <section aria-label="Query by query">
        <HeadPlots found={found} onOpen={open} />
      </section>
      <section aria-label="Largest losses" className="pt-4">
        <QueryList title={`Lost: ${worse.length}, the largest first`} rows={worse.slice(0, 12)} onOpen={open} />
        <div className="pt-3">
          <QueryList title={`Gained: ${better.length}, the largest first`} rows={better.slice(0, 6)} onOpen={open} />
        </div>
      </section>
      <section aria-label="Slices" className="pt-4">
        <SliceTable found={found} />
        <JudgeNext collection={collection} set={set} found={found} sides={sides.map((one) => one.side)} onOpen={open} />
      </section>
    </div>
  )
}

function Difference({
  found,
  weighted,
  sides,
}: {
  found: HeadToHead
  weighted: boolean
  sides: [NamedSide, NamedSide]
}) {
  return (
    <section aria-label="The difference">
      {found.part === 'locked' && <p className="pb-1 font-semibold text-primary">On the locked queries</p>}
      <p className="pb-1 font-semibold" data-testid="verdict">
        {found.headline}
      </p>
      {found.reasons.map((one) => (
        <p key={one} className="small pb-1" data-testid="reason">
          {one}
        </p>
      ))}
      <p className="flex items-baseline gap-3">
        <span className="text-[24px] font-semibold" data-testid="gain">
          <Delta value={found.comparison.gain} />
        </span>
        <span>
          {found.measure}, 95 % interval {deltaText(found.comparison.interval.low)} to{' '}
          {deltaText(found.comparison.interval.high)}
        </span>
      </p>
      <BothFigures found={found} />
      <HowSure found={found} weighted={weighted} />
      <h2 className="heading quiet pt-4 pb-1">What was changed</h2>
      {found.differences.length === 0 ? (
        <p className="quiet small">
          {sides.some((one) => one.side.outside) ? 'Nobody knows how an outside ranker works.' : 'Both do the same.'}
        </p>
      ) : (
        <Differences all={found.differences} heads={found.names} />
      )}
      <Broken found={found} />
    </section>
  )
}

function BothFigures({ found }: { found: HeadToHead }) {
  return (
    <table className="my-2 w-full min-w-[520px]">
      <tbody>
        {found.names.map((name, i) => {
          const [own, interval] = [found.figures[i as 0 | 1], found.intervals[i as 0 | 1]]
          const band = own.bands[found.measure]
          return (
            <tr key={name} className="line-b">
              <td className="max-w-0 truncate py-1 pr-2 font-semibold" title={name}>
                {name}
              </td>
              <td className="figure w-[60px] font-semibold">{measureText(own.measured.means[found.measure])}</td>
              <td className="figure quiet small w-[104px]">
                {measureText(interval.low)} – {measureText(interval.high)}
              </td>
              <td className="figure quiet small w-[174px]">
                {band ? `${measureText(band.worst)} – ${measureText(band.best)} once judged` : ''}
              </td>
              <td className="figure quiet small w-[104px]">{shareText(own.unjudged[found.measure] ?? 0)} unjudged</td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

function HowSure({ found, weighted }: { found: HeadToHead; weighted: boolean }) {
  return (
    <dl className="small grid grid-cols-[auto_minmax(0,1fr)] gap-x-4 gap-y-1">
      <dt className="quiet">queries</dt>
      <dd>
        <span className="gain">▲{found.comparison.gained} gained</span>,{' '}
        <span className="loss">▼{found.comparison.lost} lost</span>, {found.comparison.tied} tied, of{' '}
        {found.comparison.queries}
      </dd>
      <dt className="quiet">other tests</dt>
      <dd>
        paired t {pText(found.comparison.t)}; Wilcoxon {pText(found.comparison.wilcoxon)}
        {weighted && ' (these two know nothing of how often a query is asked)'}
      </dd>
      {found.comparison.detectable !== null && found.comparison.needed > 0 && (
        <>
          <dt className="quiet">large enough to show</dt>
          <dd>{detectableText(found.comparison.detectable, found.comparison.needed)}</dd>
        </>
      )}
      {found.stale > 0 && (
        <>
          <dt className="quiet">stale</dt>
          <dd>{found.stale} judgments are of records that changed since; Judging, Agreement lists them</dd>
        </>
      )}
      {found.notes.map((note) => (
        <dd key={note} className="col-span-2">
          {note}
        </dd>
      ))}
    </dl>
  )
}

function SliceTable({ found }: { found: HeadToHead }) {
  return (
    <table className="w-full min-w-[420px]">
      <caption className="heading quiet pb-1 text-left">
        By tag <TakeTable what="the tags" file="head-to-head-tags" />
      </caption>
      <tbody>
        {[...found.slices]
          .sort((a, b) => a.comparison.gain - b.comparison.gain)
          .map((one) => (
            <tr key={one.tag} className="line-b">
              <td className="max-w-0 truncate py-1 pr-2" title={one.tag}>
                {one.tag}
              </td>
              <td className="figure quiet small w-[26px]">{one.comparison.queries}</td>
              <td className="figure w-[52px]">{measureText(one.comparison.first)}</td>
              <td className="figure w-[52px]">{measureText(one.comparison.second)}</td>
              <td className="figure w-[60px]">
                <Delta value={one.comparison.gain} />
              </td>
              <td className="figure quiet small w-[92px]">
                {one.unjudged > 0 ? `${countText(one.unjudged)} unjudged` : ''}
              </td>
              <td className="small w-[96px] pl-2" title={sliceText(one)}>
                {one.says_little ? <span className="quiet">too few to say</span> : pText(one.corrected)}
              </td>
            </tr>
          ))}
      </tbody>
    </table>
  )
}

function QueryList({
  title,
  rows,
  onOpen,
}: {
  title: string
  rows: ReturnType<typeof byLoss>
  onOpen: (query: string) => void
}) {
  return (
    <table className="w-full min-w-[420px]">
      <caption className="heading quiet pb-1 text-left">
        {title} <TakeTable what="these queries" file={`head-to-head-${title}`} />
      </caption>
      <tbody>
        {rows.map((one) => (
          <tr key={one.query_id} className="line-b cursor-pointer hover:bg-base-200" onClick={() => onOpen(one.query)}>
            <td className="max-w-0 truncate py-1 pr-2">
              <button
                type="button"
                className="cursor-pointer font-semibold"
                title={`${one.query}: both lists in Ranking`}
              >
                {one.query}
              </button>
            </td>
            <td className="figure w-[52px]">{measureText(one.first)}</td>
            <td className="figure w-[52px]">{measureText(one.second)}</td>
            <td className="figure w-[60px]">
              <Delta value={one.second - one.first} />
            </td>
            <td className="figure quiet small w-[86px]">{one.unjudged > 0 ? `${one.unjudged} unjudged` : ''}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Broken({ found }: { found: HeadToHead }) {
  const [first, second] = found.figures.map((one) => one.broken.length)
  if (!first && !second) return null
  return (
    <p className="small pt-3">
      Broken expectations: {first} with {found.names[0]}, {second} with {found.names[1]}.
    </p>
  )
}

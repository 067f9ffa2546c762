// How well pages were read by machine: the worst first, each with its doubtful words on its picture.
import { useQuery } from '@tanstack/react-query'
import type { Collection } from '../../api/queries'
import { readingQuality, type ReadingQuality } from '../../api/records'
import { here } from '../../api/base'
import { Kept, Unanswered } from '../../parts/answered'
import { CopyButton } from '../../parts/copy-button'
import { Select } from '../../parts/select'
import { Empty } from '../../parts/notes'
import { TakeTable } from '../../parts/take-table'
import { PageViewer } from '../../scans/page-viewer'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { countText } from '../../thinking/figures'
import { areDoubtsOf, doubtsOf, sureText, worstShare } from '../../thinking/reading'
import { countable } from '../../thinking/records'

type Worst = ReadingQuality['worst'][number]

export function ReadingView({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const fields = countable(collection).filter((field) => field.kind === 'exact' && field.role === null)
  const wanted = params.get('by') ?? 'thing'
  const by = fields.some((field) => field.name === wanted) ? wanted : null
  const found = useQuery(readingQuality(collection.name, collection.revision, by))
  const keys = found.data?.worst.map((one) => one.key) ?? []
  const chosen = params.get('key')
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
    const at = keys.indexOf(chosen ?? '')
    if (event.key === 'j') change({ key: keys[Math.min(keys.length - 1, at + 1)] ?? null })
    if (event.key === 'k') change({ key: keys[Math.max(0, at - 1)] ?? null })
    if (event.key === 'Escape') change({ key: null })
  })
  if (!found.data) return <Unanswered asked={[found]} what="how well pages were read" />
  const open = found.data.worst.find((one) => one.key === chosen)
  return (
    <Kept asked={[found]} what="how well pages were read" className="h-full">
      <div className={`panes grid h-full ${open ? 'grid-cols-[minmax(0,1fr)_480px]' : ''}`}>
        <section aria-label="Pages as they were read" className="long-table min-h-0 overflow-auto">
          <Summary found={found.data} />
          {found.data.confusions.length > 0 && <Confusions found={found.data} />}
          <div className="flex flex-wrap items-center gap-3 px-4 py-1">
            <label className="flex items-center gap-2">
              <span className="small">things by</span>
              <Select
                label="Things by"
                className="boxed low bg-transparent text-[13px]"
                value={by ?? ''}
                choices={[['', 'nothing'], ...fields.map((field) => [field.name, field.name] as const)]}
                onChoose={(to) => change({ by: to || '-' })}
              />
            </label>
            <span className="flex-1" />
            <TakeTable what="the pages" file={`${collection.name}-reading`} />
          </div>
          <Pages collection={collection.name} found={found.data} chosen={chosen} onChoose={(key) => change({ key })} />
          {found.data.things.length > 1 && <Things found={found.data} />}
        </section>
        {open && (
          <aside aria-label={`Page ${open.key}`} className="over line-l flex min-h-0 flex-col">
            <div className="line-b flex items-baseline gap-2 px-4 py-2">
              <b className="min-w-0 flex-1 truncate font-semibold" title={open.key}>
                {open.title}
              </b>
              <button
                type="button"
                className="btn btn-ghost btn-xs font-normal"
                onClick={() => change({ view: 'browse', part: 'Page' })}
              >
                Record
              </button>
              <button type="button" className="btn btn-ghost btn-xs font-normal" onClick={() => change({ key: null })}>
                Close
              </button>
            </div>
            <div className="min-h-0 flex-1 overflow-y-auto">
              <PageViewer
                collection={collection.name}
                recordKey={open.key}
                marks={doubtsOf(open)}
                areOf={(_, text) => areDoubtsOf(open, text)}
                calls="doubtful word"
              />
            </div>
          </aside>
        )}
      </div>
    </Kept>
  )
}

function Summary({ found }: { found: ReadingQuality }) {
  if (found.pages === 0) return <Empty title="No page yet">Import a folder of scanned pages.</Empty>
  return (
    <p className="line-b px-4 py-2">
      {found.looked_at < found.records &&
        `From a sample of ${countText(found.looked_at)} of ${countText(found.records)} records: `}
      <b className="font-semibold">{countText(found.doubtful)}</b> of {countText(found.words)} words are doubtful
      {found.confidence !== null && <>; the machine was {sureText(found.confidence)} sure</>}.
      {found.unfit > 0 && (
        <span className="loss"> Of {countText(found.unfit)} pages the places are of another text, or not here.</span>
      )}
    </p>
  )
}

function Pages(props: {
  collection: string
  found: ReadingQuality
  chosen: string | null
  onChoose: (key: string) => void
}) {
  return (
    <table className="w-full border-collapse text-left">
      <thead>
        <tr className="line-b quiet small">
          <th className="py-2 pr-2 pl-4 font-normal">page</th>
          <th className="figure px-2 font-normal">doubtful</th>
          <th className="figure px-2 font-normal">words</th>
          <th className="figure px-2 font-normal">sure</th>
          <th className="py-2 pr-4 pl-2 font-normal">such as</th>
        </tr>
      </thead>
      <tbody>
        {props.found.worst.map((one) => (
          <PageRow
            key={one.key}
            collection={props.collection}
            one={one}
            chosen={one.key === props.chosen}
            onChoose={() => props.onChoose(one.key)}
          />
        ))}
      </tbody>
    </table>
  )
}

function PageRow(props: { collection: string; one: Worst; chosen: boolean; onChoose: () => void }) {
  const { one } = props
  return (
    <tr
      aria-current={props.chosen ? 'true' : undefined}
      className={`line-b cursor-pointer hover:bg-base-200 ${props.chosen ? 'bg-base-200' : ''}`}
      onClick={props.onChoose}
    >
      <td className="py-1.5 pr-2 pl-4">
        <span className="flex items-center gap-2">
          {one.picture !== null && (
            <img
              src={here(
                `/api/collections/${encodeURIComponent(props.collection)}/pictures/${encodeURIComponent(one.picture)}?small=true`,
              )}
              alt=""
              loading="lazy"
              className="max-h-[36px] w-[28px] shrink-0 object-contain"
              onError={(event) => {
                event.currentTarget.style.visibility = 'hidden'
              }}
            />
          )}
          <button type="button" className="max-w-[220px] cursor-pointer truncate text-left" title={one.key}>
            {one.title}
          </button>
        </span>
      </td>
      <td className="figure px-2" title={`${one.doubtful} of ${one.words} words`}>
        {worstShare(one)}
      </td>
      <td className="figure px-2">{countText(one.words)}</td>
      <td className="figure px-2">{one.confidence === null ? '–' : sureText(one.confidence)}</td>
      <td dir="auto" className="max-w-[340px] min-w-[240px] py-1.5 pr-4 pl-2 wrap-anywhere">
        {one.remark && <span className="loss block">{one.remark}</span>}
        {one.doubts.slice(0, 8).map((doubt) => (
          <bdi key={doubt.start} className="mr-2 inline-block" title={doubt.doubts.join(', ')}>
            {doubt.word}
          </bdi>
        ))}
      </td>
    </tr>
  )
}

// What the machine seems to take for what, and a stage that makes it one.
function Confusions({ found }: { found: ReadingQuality }) {
  const stage = found.stage ?? ''
  return (
    <details className="line-b px-4 py-2">
      <summary className="cursor-pointer">
        Letters read for others:{' '}
        {found.confusions
          .slice(0, 6)
          .map(({ read, meant }) => `${read} for ${meant}`)
          .join(', ')}
        {found.confusions.length > 6 && ' …'}
      </summary>
      <p className="py-1">
        By rare words beside frequent ones. As a stage of a chain:{' '}
        <code className="text-[13px] wrap-anywhere">{stage}</code>{' '}
        <CopyButton what="Copy the stage" text={() => stage} />
      </p>
      <table className="w-full border-collapse text-left">
        <thead>
          <tr className="line-b quiet small">
            <th className="py-2 pr-2 pl-4 font-normal">read</th>
            <th className="px-2 font-normal">for</th>
            <th className="figure px-2 font-normal">words</th>
            <th className="py-2 pr-4 pl-2 font-normal">such as</th>
          </tr>
        </thead>
        <tbody>
          {found.confusions.map((one) => (
            <tr key={`${one.read} ${one.meant}`} className="line-b">
              <td className="py-1 pr-2 pl-4 font-mono">{one.read}</td>
              <td className="px-2 font-mono">{one.meant}</td>
              <td className="figure px-2">{countText(one.words)}</td>
              <td dir="auto" className="py-1 pr-4 pl-2 wrap-anywhere">
                {one.examples.map(([read, meant]) => (
                  <bdi key={read} className="mr-3 inline-block">
                    {read} <span className="quiet">for {meant}</span>
                  </bdi>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  )
}

function Things({ found }: { found: ReadingQuality }) {
  return (
    <table aria-label="Things" className="mt-4 w-full border-collapse text-left">
      <thead>
        <tr className="line-b quiet small">
          <th className="py-2 pr-2 pl-4 font-normal">thing</th>
          <th className="figure px-2 font-normal">doubtful</th>
          <th className="figure px-2 font-normal">pages</th>
          <th className="figure px-4 font-normal">sure</th>
        </tr>
      </thead>
      <tbody>
        {found.things.map((one) => (
          <tr key={one.thing} className="line-b">
            <td dir="auto" className="py-1 pr-2 pl-4 wrap-anywhere">
              {one.thing}
            </td>
            <td className="figure px-2" title={`${one.doubtful} of ${one.words} words`}>
              {worstShare(one)}
            </td>
            <td className="figure px-2">{countText(one.pages)}</td>
            <td className="figure px-4">{one.confidence === null ? '–' : sureText(one.confidence)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

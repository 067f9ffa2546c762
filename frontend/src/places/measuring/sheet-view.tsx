// The draft's sheet: the judged set's means, by tag too, and every query; a click opens a query in Ranking.
import { useQuery } from '@tanstack/react-query'
import { useEffect, useEffectEvent, useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { judgedSet, MEASURES, type Collection } from '../../api/queries'
import { TakeAway } from '../../parts/take-away'
import { Delta } from '../../parts/delta'
import { Room } from '../../parts/room'
import { useWindowed } from '../../parts/use-windowed'
import { Kept, Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { carried, useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { useDraft } from '../../shell/use-draft'
import { useMeter, type Meter } from '../../shell/use-meter'
import { between, countText, MEASURE_NAMES, measureText } from '../../thinking/figures'
import { howText, parsedHow } from '../../thinking/how'
import { asTable, byTag, sorted, tableRows, type Column, type QueryRow, type Sorting } from '../../thinking/query-table'
import { askedAs } from '../../thinking/judging'

export function SheetView({ collection, set }: { collection: Collection; set: string }) {
  const { draft, error } = useDraft(collection)
  const { meter, asked } = useMeter(collection, MEASURES)
  const judged = useQuery(judgedSet(collection.name, set))
  const how = parsedHow(useAddress().params.get('rules'))
  if (error) return <ProblemNote error={error} />
  if (!draft || !meter || !judged.data) return <Unanswered asked={[...asked, judged]} what="the measures" />
  const rows = tableRows(judged.data.queries, meter.draft.figures, meter.baseline.figures, meter.measure, how.weighted)
  return (
    <Kept asked={[...asked, judged]} what="the measures" className="h-full">
      <Sheet
        collection={collection}
        meter={meter}
        rows={rows}
        isBaseline={draft.isBaseline}
        name={`${draft.baseline.name} ${draft.baseline.version}`}
        queryOf={(id) => judged.data.queries.find((one) => one.query_id === id)?.query ?? id}
      />
    </Kept>
  )
}

function Sheet(props: {
  collection: Collection
  meter: Meter
  rows: QueryRow[]
  isBaseline: boolean
  name: string
  queryOf: (id: string) => string
}) {
  const { meter, rows, isBaseline, name } = props
  const { params, change } = useAddress()
  const how = parsedHow(params.get('rules'))
  const navigate = useNavigate()
  const [sorting, setSorting] = useState<Sorting>({ column: 'place', up: true })
  const [at, setAt] = useState(0)
  const tag = params.get('tag')
  const shown = useMemo(
    () => sorted(tag === null ? rows : rows.filter((row) => row.tags.includes(tag)), sorting),
    [rows, tag, sorting],
  )
  const open = (row: QueryRow | undefined) => {
    if (row) navigate(`/${props.collection.name}/ranking${carried(params, askedAs(row))}`)
  }
  const handle = (event: KeyboardEvent) => {
    if (typing(event) || event.ctrlKey || event.metaKey) return
    const step = { j: 1, k: -1 }[event.key]
    if (step) setAt((old) => Math.max(0, Math.min(shown.length - 1, old + step)))
    if (event.key === 'Enter' && event.target === document.body) open(shown[at])
  }
  useKeys(handle)
  const by = (column: Column) =>
    setSorting((old) => ({ column, up: old.column === column ? !old.up : column === 'place' || column === 'query' }))
  const made = meter.draft.made_of

  return (
    <div className="panes grid h-full grid-cols-[minmax(0,1fr)_324px]">
      <section aria-label="Queries" className="long-table min-h-0 overflow-y-auto">
        <Means meter={meter} isBaseline={isBaseline} />
        {meter.draft.notes.length > 0 && (
          <ul aria-label="What to know of these figures" className="line-b small px-4 py-2">
            {meter.draft.notes.map((note) => (
              <li key={note}>{note}</li>
            ))}
          </ul>
        )}
        <QueryTable
          measure={meter.measure}
          sorting={sorting}
          onSort={by}
          isBaseline={isBaseline}
          shown={shown}
          at={at}
          onOpen={open}
        />
      </section>
      <aside aria-label="By tag" className="line-l min-h-0 overflow-y-auto">
        <WhoseFigures isBaseline={isBaseline} name={name} made={made} meter={meter} how={how} />
        {meter.draft.figures.broken.length > 0 && (
          <BrokenExpectations
            meter={meter}
            navigate={navigate}
            collection={props.collection}
            params={params}
            queryOf={props.queryOf}
          />
        )}
        <h2 className="heading quiet flex items-baseline gap-1 px-4 pt-3 pb-1">
          <span className="flex-1">{MEASURE_NAMES[meter.measure]} by tag</span>
          <span className="small font-normal">unjudged</span>
        </h2>
        <TagList rows={rows} meter={meter} isBaseline={isBaseline} tag={tag} change={change} />
        <MadeOf shown={shown} made={made} name={name} measure={meter.measure} />
      </aside>
    </div>
  )
}

function WhoseFigures({
  isBaseline,
  name,
  made,
  meter,
  how,
}: {
  isBaseline: boolean
  name: string
  made: Meter['draft']['made_of']
  meter: Meter
  how: Parameters<typeof howText>[0]
}) {
  return (
    <div className="line-b px-4 py-3">
      <p>
        <b className="font-semibold">{isBaseline ? name : `Draft on ${name}`}</b>
        <span className="quiet"> on {made.judged_set}</span>
      </p>
      <p className="quiet small pt-1">
        {percent(meter.draft.figures.unjudged[meter.measure] ?? 0)} of what {MEASURE_NAMES[meter.measure]} looks at is
        unjudged; {howText(how)}
      </p>
    </div>
  )
}

function TagList({
  rows,
  meter,
  isBaseline,
  tag,
  change,
}: {
  rows: QueryRow[]
  meter: Meter
  isBaseline: boolean
  tag: string | null
  change: ReturnType<typeof useAddress>['change']
}) {
  return (
    <ul>
      <TagLine
        name="all"
        count={rows.length}
        mean={meter.draft.figures.measured.means[meter.measure]}
        delta={meter.gain}
        unjudged={meter.draft.figures.unjudged[meter.measure] ?? 0}
        isBaseline={isBaseline}
        chosen={tag === null}
        onChoose={() => change({ tag: null })}
      />
      {byTag(rows).map((slice) => (
        <TagLine
          key={slice.tag}
          name={slice.tag}
          count={slice.count}
          mean={slice.mean}
          delta={slice.delta}
          unjudged={slice.unjudged}
          isBaseline={isBaseline}
          chosen={tag === slice.tag}
          onChoose={() => change({ tag: tag === slice.tag ? null : slice.tag })}
        />
      ))}
    </ul>
  )
}

function Means({ meter, isBaseline }: { meter: Meter; isBaseline: boolean }) {
  return (
    <dl className="line-b flex flex-wrap gap-x-8 gap-y-2 px-4 py-3">
      {MEASURES.map((measure) => (
        <div key={measure}>
          <dt className="quiet small">{MEASURE_NAMES[measure]}</dt>
          <dd className="text-[20px] font-semibold" data-testid={`mean-${measure}`}>
            {measureText(meter.draft.figures.measured.means[measure])}
          </dd>
          {measure !== 'judged@10' && (
            <dd className="quiet small" title="Share of unjudged records among those that it looks at">
              {percent(meter.draft.figures.unjudged[measure] ?? 0)} unjudged
            </dd>
          )}
          {!isBaseline && (
            <dd className="small">
              <Delta
                value={between(
                  meter.baseline.figures.measured.means[measure],
                  meter.draft.figures.measured.means[measure],
                )}
              />
            </dd>
          )}
        </div>
      ))}
    </dl>
  )
}

function QueryTable({
  measure,
  sorting,
  onSort,
  isBaseline,
  shown,
  at,
  onOpen,
}: {
  measure: string
  sorting: Sorting
  onSort: (column: Column) => void
  isBaseline: boolean
  shown: QueryRow[]
  at: number
  onOpen: (row: QueryRow | undefined) => void
}) {
  const { body, first, end, before, after, scrollTo } = useWindowed<HTMLTableSectionElement>(shown.length, 33)
  const toChosen = useEffectEvent(scrollTo)
  useEffect(() => {
    if (at > 0) toChosen(at)
  }, [at])
  return (
    <table className="w-full min-w-[600px] table-fixed" aria-rowcount={shown.length + 1}>
      <thead>
        <tr className="quiet small line-b sticky top-0 z-10 bg-base-100 text-left">
          <Head width="w-[28%]" name="query" column="query" sorting={sorting} onSort={onSort} left />
          <th className="px-2 py-2 font-normal">need</th>
          <Head
            width="w-[74px]"
            name={MEASURE_NAMES[measure] ?? measure}
            column="main"
            sorting={sorting}
            onSort={onSort}
          />
          {!isBaseline && <Head width="w-[66px]" name="change" column="delta" sorting={sorting} onSort={onSort} />}
          <Head width="w-[60px]" name="AP" column="ap" sorting={sorting} onSort={onSort} />
          <Head width="w-[60px]" name="RR" column="rr" sorting={sorting} onSort={onSort} />
          <Head width="w-[66px]" name="judged" column="judged" sorting={sorting} onSort={onSort} />
          <Head width="w-[64px]" name="found" column="matched" sorting={sorting} onSort={onSort} />
        </tr>
      </thead>
      <tbody ref={body}>
        <Room height={before} />
        {shown.slice(first, end).map((row, i) => (
          <QueryLine key={row.queryId} i={first + i} at={at} onOpen={onOpen} row={row} isBaseline={isBaseline} />
        ))}
        <Room height={after} />
      </tbody>
    </table>
  )
}

function QueryLine({
  i,
  at,
  onOpen,
  row,
  isBaseline,
}: {
  i: number
  at: number
  onOpen: (row: QueryRow | undefined) => void
  row: QueryRow
  isBaseline: boolean
}) {
  return (
    <tr
      aria-current={i === at ? 'true' : undefined}
      aria-rowindex={i + 2}
      ref={(element) => {
        if (i === at && at > 0) element?.scrollIntoView({ block: 'nearest' })
      }}
      className={`line-b cursor-pointer hover:bg-base-200 ${i === at ? 'bg-base-200' : ''}`}
      onClick={() => onOpen(row)}
    >
      <td dir="auto" className="truncate py-1.5 pr-2 pl-4">
        <button
          type="button"
          className="max-w-full cursor-pointer truncate text-left align-bottom font-semibold"
          title={`${row.query}: open in Ranking`}
        >
          {row.query}
        </button>
      </td>
      <td dir="auto" className="quiet small truncate px-2" title={row.need}>
        {row.need}
      </td>
      <td className="figure px-2 font-semibold">{measureText(row.main)}</td>
      {!isBaseline && (
        <td className="figure px-2">
          <Delta value={row.delta} />
        </td>
      )}
      <td className="figure px-2">{measureText(row.ap)}</td>
      <td className="figure px-2">{measureText(row.rr)}</td>
      <td className="figure px-2">{row.matched > 0 ? percent(row.judged) : '–'}</td>
      <td className="figure py-1.5 pr-4 pl-2">{countText(row.matched)}</td>
    </tr>
  )
}

function BrokenExpectations({
  meter,
  navigate,
  collection,
  params,
  queryOf,
}: {
  meter: Meter
  navigate: ReturnType<typeof useNavigate>
  collection: Collection
  params: URLSearchParams
  queryOf: (id: string) => string
}) {
  return (
    <div className="line-b px-4 py-3">
      <h2 className="heading loss pb-1">
        {meter.draft.figures.broken.length}{' '}
        {meter.draft.figures.broken.length === 1 ? 'expectation is' : 'expectations are'} broken
      </h2>
      <ul aria-label="Broken expectations">
        {meter.draft.figures.broken.map((one) => (
          <li key={one.expectation.id} className="small wrap-anywhere">
            <button
              type="button"
              className="cursor-pointer font-semibold"
              onClick={() =>
                navigate(`/${collection.name}/ranking${carried(params, { q: queryOf(one.expectation.query_id) })}`)
              }
            >
              {queryOf(one.expectation.query_id)}
            </button>
            : {one.said}; {one.instead}
          </li>
        ))}
      </ul>
    </div>
  )
}

function MadeOf({
  shown,
  made,
  name,
  measure,
}: {
  shown: QueryRow[]
  made: Meter['draft']['made_of']
  name: string
  measure: string
}) {
  return (
    <div className="px-4 py-3">
      <h2 className="heading quiet flex items-baseline justify-between pb-1">
        Made of <TakeAway what="the table" file={`${made.judged_set}-${name}`} rows={() => asTable(shown, measure)} />
      </h2>
      <p className="quiet small wrap-anywhere">
        records revision {made.records_revision} ({made.records_fingerprint.slice(0, 8)}), {made.judged_set} revision{' '}
        {made.judged_revision}, {made.ranker ? `${made.ranker} ${made.ranker_version}` : `a draft on ${name}`}, program{' '}
        {made.program_version}
      </p>
    </div>
  )
}

function Head(props: {
  width: string
  name: string
  column: Column
  sorting: Sorting
  left?: boolean
  onSort: (column: Column) => void
}) {
  const here = props.sorting.column === props.column
  return (
    <th
      className={`${props.width} py-2 font-normal ${props.left ? 'pr-2 pl-4' : 'px-2 text-right'}`}
      aria-sort={here ? (props.sorting.up ? 'ascending' : 'descending') : undefined}
    >
      <button
        type="button"
        className={`cursor-pointer whitespace-nowrap ${here ? 'font-semibold' : ''}`}
        onClick={() => props.onSort(props.column)}
      >
        {here ? (props.sorting.up ? '↑ ' : '↓ ') : ''}
        {props.name}
      </button>
    </th>
  )
}

function TagLine(props: {
  name: string
  count: number
  mean: number | undefined
  delta: number | undefined
  unjudged: number
  isBaseline: boolean
  chosen: boolean
  onChoose: () => void
}) {
  return (
    <li>
      <button
        type="button"
        aria-pressed={props.chosen}
        className={`grid w-full cursor-pointer grid-cols-[minmax(0,1fr)_26px_46px_52px_40px] items-baseline gap-1 border-l-[3px] px-3 py-1 text-left hover:bg-base-200 ${
          props.chosen ? 'border-primary bg-base-200' : 'border-transparent'
        }`}
        onClick={props.onChoose}
      >
        <span className="truncate" title={props.name}>
          {props.name}
        </span>
        <span className="figure quiet small">{props.count}</span>
        <span className="figure">{measureText(props.mean)}</span>
        <span className="figure small">{!props.isBaseline && <Delta value={props.delta} />}</span>
        <span className="figure quiet small">{percent(props.unjudged)}</span>
      </button>
    </li>
  )
}

const percent = (share: number) => `${Math.round(100 * share)} %`

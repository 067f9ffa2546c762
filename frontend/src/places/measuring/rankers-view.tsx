// Rankers by measures: means with their intervals, bands for what is unjudged, and what they gain on the first.
import { useQuery } from '@tanstack/react-query'
import { overview, outsideRankers, type Overview } from '../../api/comparing'
import { MEASURES, type Collection } from '../../api/queries'
import { Delta } from '../../parts/delta'
import { Kept, Unanswered } from '../../parts/answered'
import { TakeTable } from '../../parts/take-table'
import { useAddress } from '../../shell/address'
import { useDraft } from '../../shell/use-draft'
import { along, mark, pText, shareText } from '../../thinking/comparing'
import { MEASURE_NAMES, measureText } from '../../thinking/figures'
import { parsedHow } from '../../thinking/how'
import { inOrder, sidesThere } from '../../thinking/sides'
import { OutsidePanel } from './outside-panel'

const MOST = 12

export function RankersView({ collection, set }: { collection: Collection; set: string }) {
  const { params, change } = useAddress()
  const { draft } = useDraft(collection)
  const outside = useQuery(outsideRankers(collection.name))
  const measures = (params.get('measures') ?? MEASURES.filter((one) => one !== 'judged@10').join(','))
    .split(',')
    .filter(Boolean)
  const sides = sidesThere(draft, outside.data ?? [], set).slice(0, MOST)
  const found = useQuery({
    ...overview(
      collection,
      set,
      sides.map((one) => one.side),
      measures,
      { ...parsedHow(params.get('rules')), part: 'open', bands: true },
    ),
    enabled: sides.length > 0 && outside.isSuccess,
  })
  return (
    <div className="panes grid h-full grid-cols-[minmax(0,1fr)_340px]">
      <section aria-label="Rankers" className="min-h-0 overflow-auto">
        {found.data ? (
          <Kept asked={[found]} what="the rankers">
            <Table
              found={found.data}
              measures={measures}
              onHead={(second) => {
                const [one, other] = [sides[0], sides[second]]
                const [before, after] = one && other ? inOrder(one, other) : [one, other]
                change({ view: 'head', first: before?.name ?? null, second: after?.name ?? null }, false)
              }}
            />
          </Kept>
        ) : (
          <Unanswered asked={[found]} what="the rankers" />
        )}
        <form
          className="flex items-center gap-2 px-4 py-3"
          onSubmit={(event) => {
            event.preventDefault()
            const written = new FormData(event.currentTarget).get('measures')
            change({ measures: String(written).replace(/\s/g, '') || null })
          }}
        >
          <label className="quiet small" htmlFor="measures">
            measures
          </label>
          <input
            dir="auto"
            id="measures"
            name="measures"
            className="input input-xs min-w-0 flex-1 border-base-300 bg-transparent font-mono"
            defaultValue={measures.join(', ')}
          />
          <button type="submit" className="btn btn-xs">
            Show
          </button>
          <TakeTable what="the rankers by measures" file={`${set}-rankers`} />
        </form>
        {found.data && (
          <p className="quiet small max-w-[90ch] px-4 pb-4">
            {found.data.queries} queries, grades of revision {found.data.judged_revision}
            {found.data.locked > 0
              ? `; ${found.data.locked} locked ones are left out`
              : '; none is locked away, so every look is at all queries'}
            . Of each: the mean, its 95 % interval (the thin bar) and how far it could go once the unjudged are judged
            (the wide pale one); below, the gain on {found.data.rows[0]?.name} with the randomisation test corrected for
            several (Holm): * below 0.05, ** 0.01, *** 0.001. {found.data.looks}{' '}
            {found.data.looks === 1 ? 'ranker was' : 'rankers were'} looked at on these queries.
          </p>
        )}
      </section>
      <aside aria-label="Outside rankers" className="line-l min-h-0 overflow-y-auto px-4 py-3">
        <OutsidePanel collection={collection} set={set} />
      </aside>
    </div>
  )
}

const WIDTH = 84

function Table({ found, measures, onHead }: { found: Overview; measures: string[]; onHead: (second: number) => void }) {
  return (
    <table className="w-full min-w-[560px]">
      <thead>
        <tr className="quiet small line-b text-left">
          <th className="py-2 pr-2 pl-4 font-normal">ranker</th>
          {measures.map((measure) => (
            <th key={measure} className="px-2 text-right font-normal">
              {MEASURE_NAMES[measure] ?? measure}
            </th>
          ))}
          <th className="py-2 pr-4 pl-2 text-right font-normal">broken</th>
        </tr>
      </thead>
      <tbody>
        {found.rows.map((row, i) => (
          <RankerLine key={row.name} row={row} i={i} onHead={onHead} measures={measures} />
        ))}
      </tbody>
    </table>
  )
}

function RankerLine({
  row,
  i,
  onHead,
  measures,
}: {
  row: Overview['rows'][number]
  i: number
  onHead: (second: number) => void
  measures: string[]
}) {
  return (
    <tr className="line-b align-top">
      <td className="max-w-[190px] py-2 pr-2 pl-4">
        <b className="block truncate font-semibold" title={row.name}>
          {row.name}
        </b>
        {i === 0 ? (
          <span className="quiet small">the others against it</span>
        ) : (
          <button type="button" className="link small" onClick={() => onHead(i)}>
            head to head
          </button>
        )}
        {row.notes.map((note) => (
          <span key={note} className="small block">
            {note}
          </span>
        ))}
      </td>
      {measures.map((measure) => {
        const interval = row.intervals[measure]
        const band = row.figures.bands[measure]
        const against = row.against_first[measure]
        const mean = row.figures.measured.means[measure]
        if (mean === undefined)
          return (
            <td key={measure} className="figure quiet px-2 py-2">
              –
            </td>
          )
        const unjudged = row.figures.unjudged[measure] ?? 0
        const said = `${row.name}, ${measure}: ${measureText(mean)}${interval ? `, interval ${measureText(interval.low)} to ${measureText(interval.high)}` : ''}${band ? `, ${measureText(band.worst)} to ${measureText(band.best)} once judged` : ''}, ${shareText(unjudged)} unjudged${against ? `; ${pText(against[2])} corrected` : ''}`
        return (
          <MeasureCell
            key={measure}
            said={said}
            mean={mean}
            band={band}
            interval={interval}
            against={against}
            unjudged={unjudged}
          />
        )
      })}
      <td
        className={`figure py-2 pr-4 pl-2 ${row.figures.broken.length ? 'loss' : 'quiet'}`}
        title="Expectations that do not hold"
      >
        {row.figures.broken.length}
      </td>
    </tr>
  )
}

function MeasureCell({
  said,
  mean,
  band,
  interval,
  against,
  unjudged,
}: {
  said: string
  mean: number
  band: undefined | { best: number; worst: number }
  interval: undefined | { high: number; low: number }
  against: undefined | [number, number, number]
  unjudged: number
}) {
  return (
    <td className="px-2 py-2 text-right" title={said}>
      <span className="figure block font-semibold">{measureText(mean)}</span>
      <svg width={WIDTH} height="9" role="img" aria-label={said} className="ml-auto block">
        <line x1="0" x2={WIDTH} y1="4.5" y2="4.5" stroke="var(--line)" />
        {band && (
          <rect
            x={along(band.worst, WIDTH)}
            width={Math.max(1, along(band.best, WIDTH) - along(band.worst, WIDTH))}
            y="1"
            height="7"
            fill="var(--color-secondary)"
            opacity="0.25"
          />
        )}
        {interval && (
          <rect
            x={along(interval.low, WIDTH)}
            width={Math.max(1, along(interval.high, WIDTH) - along(interval.low, WIDTH))}
            y="3"
            height="3"
            fill="var(--color-secondary)"
          />
        )}
        <rect x={along(mean, WIDTH) - 1} width="2" y="0" height="9" fill="var(--color-base-content)" />
      </svg>
      <span className="small block whitespace-nowrap">
        {against ? (
          <>
            <Delta value={against[0]} />
            <span className="inline-block w-[22px] text-left">{mark(against[2])}</span>
          </>
        ) : (
          ' '
        )}
      </span>
      <span className="quiet small block whitespace-nowrap">{shareText(unjudged)} unjudged</span>
    </td>
  )
}

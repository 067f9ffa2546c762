// Both traces in one grid of columns: stages of the record above the quay line, of the query below it.
import { useState, type KeyboardEvent } from 'react'
import type { Meeting } from '../../api/queries'
import { folded, type Berth, type Cell, type Grid, type Row, type Stretch } from '../../thinking/columns'

// Lit columns on both sides; own is the one that was pointed at.
export type Lit = { record: Set<number>; query: Set<number>; own: { side: Side; column: number } }
type Layout = { recordGrid: Grid; queryGrid: Grid; berths: Berth[] }
type Side = 'record' | 'query'

// More columns than this are folded where nothing meets.
const MOST_OPEN = 14
// Of the terms that met nobody so many say why.
const MOST_ADRIFT = 8

type GridProps = {
  meeting: Meeting
  // Whether there is a query at all.
  asked: boolean
  layout: Layout
  lit: Lit | null
  onLit: (lit: Lit | null) => void
}

export function MeetingGrid(props: GridProps) {
  const { meeting, layout, lit, onLit } = props
  const { recordGrid, queryGrid } = layout
  const [open, setOpen] = useState<ReadonlySet<number>>(new Set())
  if (recordGrid.rows.length === 0 && queryGrid.rows.length === 0) {
    return <p className="quiet p-4">Neither chain can be read yet: mend what is underlined.</p>
  }
  const { metRecords, metQueries } = columnsThatMeet(meeting, layout)
  const company = (berth: Berth) => berth.query !== null || (berth.record !== null && metRecords.has(berth.record))
  const stretches = folded(layout.berths, company, MOST_OPEN, open)
  const unfold = (stretch: Stretch) =>
    stretch.kind === 'folded' && setOpen(new Set([...open, stretch.berths[0]?.record ?? -1]))

  const recordTexts = new Set(meeting.record_stages.at(-1)?.tokens.map((token) => token.text) ?? [])
  const queryTexts = new Set(meeting.query_stages.at(-1)?.tokens.map((token) => token.text) ?? [])

  const light = (side: Side, column: number) => onLit(litFrom(meeting, layout, side, column))

  // By keyboard one berth after another is lit, as by hovering.
  const shown = stretches.flatMap((stretch) => (stretch.kind === 'berth' ? [stretch.berth] : []))
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
    if (event.key === 'Escape') onLit(null)
    if (step === undefined || shown.length === 0) return
    event.preventDefault()
    const at =
      lit === null
        ? -1
        : shown.findIndex(
            (berth) =>
              (berth.record !== null && lit.own.side === 'record' && berth.record === lit.own.column) ||
              (berth.query !== null && lit.own.side === 'query' && berth.query === lit.own.column),
          )
    const next = shown[at < 0 ? (step > 0 ? 0 : shown.length - 1) : (at + step + shown.length) % shown.length]
    if (!next) return
    if (next.record !== null) light('record', next.record)
    else if (next.query !== null) light('query', next.query)
  }

  const side = (which: Side, rows: Row[], lastIsTerms: boolean) =>
    rows.map((row, i) => (
      <StageRow
        key={`${which}${i}`}
        row={row}
        side={which}
        isTerms={lastIsTerms ? i === rows.length - 1 : i === 0}
        stretches={stretches}
        lit={lit}
        met={which === 'record' ? metRecords : metQueries}
        wanted={which === 'record' ? queryTexts : recordTexts}
        onLight={light}
        onUnfold={unfold}
      />
    ))

  return (
    <div
      className="flex min-h-full flex-col justify-center pt-2"
      role="group"
      aria-label="Words that meet; arrows light one after another"
      tabIndex={0}
      onMouseLeave={() => onLit(null)}
      onKeyDown={onKey}
    >
      <table className="self-start border-collapse" aria-label="Meeting">
        <tbody>
          {side('record', recordGrid.rows, true)}
          <QuayLine stretches={stretches} metRecords={metRecords} />
          {side('query', [...queryGrid.rows].reverse(), false)}
        </tbody>
      </table>
      {props.asked && <MetNobody meeting={meeting} />}
    </div>
  )
}

function columnsThatMeet(meeting: Meeting, { recordGrid, queryGrid }: Layout) {
  const met = meeting.moorings.filter((mooring) => mooring.record_tokens.length > 0)
  return {
    metRecords: new Set(
      met.flatMap((mooring) => mooring.record_tokens.map((token) => recordGrid.columnOf[token] ?? -1)),
    ),
    metQueries: new Set(met.map((mooring) => queryGrid.columnOf[mooring.query_token] ?? -1)),
  }
}

// One column and all that share a term with it, on both sides of the line.
function litFrom(meeting: Meeting, { recordGrid, queryGrid }: Layout, side: Side, column: number): Lit {
  const lit: Lit = { record: new Set(), query: new Set(), own: { side, column } }
  lit[side].add(column)
  const finals = (side === 'record' ? recordGrid : queryGrid).columns[column]?.finals ?? []
  for (const mooring of meeting.moorings) {
    const touched =
      side === 'query' ? finals.includes(mooring.query_token) : mooring.record_tokens.some((t) => finals.includes(t))
    if (!touched) continue
    lit.query.add(queryGrid.columnOf[mooring.query_token] ?? -1)
    for (const token of mooring.record_tokens) lit.record.add(recordGrid.columnOf[token] ?? -1)
  }
  return lit
}

function MetNobody({ meeting }: { meeting: Meeting }) {
  const queryTerms = meeting.query_stages.at(-1)?.tokens ?? []
  const adrift = meeting.moorings.filter((mooring) => mooring.reason !== null)
  const bare = meeting.moorings.filter((mooring) => mooring.bare !== null)
  return (
    <div className="sticky left-0 px-4 py-3">
      {meeting.query_stages.length > 0 && queryTerms.length === 0 && (
        <p>The query chain leaves no term of this query: nothing can be found by it.</p>
      )}
      {adrift.length + bare.length > 0 && (
        <ul aria-label="Terms that met nobody as typed">
          {adrift.slice(0, MOST_ADRIFT).map((mooring) => (
            <li key={mooring.query_token} className="py-0.5">
              <span className="font-mono text-[14px] font-semibold">{queryTerms[mooring.query_token]?.text}</span>{' '}
              <span className="quiet">met nobody.</span> {mooring.reason}
            </li>
          ))}
          {bare.slice(0, MOST_ADRIFT).map((mooring) => (
            <li key={mooring.query_token} className="py-0.5">
              <span className="font-mono text-[14px] font-semibold">{queryTerms[mooring.query_token]?.text}</span> met{' '}
              <span className="font-mono text-[14px]">{mooring.bare}</span>
              <span className="quiet">
                : a word of a query that no record has with its punctuation is read without.
              </span>
            </li>
          ))}
          {adrift.length > MOST_ADRIFT && (
            <li className="quiet py-0.5">{adrift.length - MOST_ADRIFT} more terms met nobody.</li>
          )}
        </ul>
      )}
    </div>
  )
}

// Of the tokens that one stretch became, no more than this many are written out.
const MOST_TEXTS = 3

function chosenTexts(texts: string[], wanted: ReadonlySet<string>): string[] {
  if (texts.length <= MOST_TEXTS) return texts
  return [...texts.filter((text) => wanted.has(text)), ...texts.filter((text) => !wanted.has(text))].slice(
    0,
    MOST_TEXTS,
  )
}

const LABEL = 'sticky left-0 z-[1] w-[148px] min-w-[148px] bg-base-100 pl-4 pr-2 text-left align-middle font-mono'

function StageRow(props: {
  row: Row
  side: Side
  isTerms: boolean
  stretches: Stretch[]
  lit: Lit | null
  met: Set<number>
  // Terms of the other side: of a cell with many tokens those that meet are shown before others.
  wanted: ReadonlySet<string>
  onLight: (side: Side, column: number) => void
  onUnfold: (stretch: Stretch) => void
}) {
  const { row, side, isTerms, stretches, lit, met, wanted } = props
  const [opened, setOpened] = useState(false)
  const still = !row.changed && !isTerms
  const label = <StageHead still={still} row={row} onOpened={setOpened} opened={opened} />
  if (row.text !== null) {
    return (
      <tr>
        {label}
        <td colSpan={stretches.length} className={still && !opened ? '' : 'max-w-[600px] truncate px-2 py-[3px]'}>
          {still && !opened ? <span aria-hidden className="block h-px bg-base-300" /> : row.text}
        </td>
      </tr>
    )
  }
  const folds = still && !opened
  return (
    <tr data-stage={`${side} ${row.stage}`}>
      {label}
      {stretches.map((stretch, i) => {
        if (stretch.kind === 'folded') {
          return (
            <td key={i} className="px-1 text-center align-middle">
              {row.kind === 'tokenizer' && side === 'record' && (
                <button
                  type="button"
                  className="quiet small cursor-pointer border-x border-base-300 px-2 whitespace-nowrap hover:bg-base-200"
                  title={`Show ${stretch.berths.length} more`}
                  onClick={() => props.onUnfold(stretch)}
                >
                  {stretch.berths.length} more
                </button>
              )}
            </td>
          )
        }
        const column = stretch.berth[side]
        const cell = column === null ? null : row.cells[column]
        if (column === null || !cell) return <td key={i} />
        const shines = lit?.[side].has(column) ?? false
        return (
          <TokenCell
            key={i}
            shines={shines}
            onLight={props.onLight}
            side={side}
            column={column}
            folds={folds}
            cell={cell}
            row={row}
            wanted={wanted}
            isTerms={isTerms}
            met={met}
          />
        )
      })}
    </tr>
  )
}

function StageHead({
  still,
  row,
  onOpened,
  opened,
}: {
  still: boolean
  row: Row
  onOpened: (to: boolean) => void
  opened: boolean
}) {
  return (
    <th
      scope="row"
      className={`${LABEL} ${still ? 'quiet text-[11px] leading-[14px] font-normal' : 'py-[3px] text-[13px] font-semibold'}`}
    >
      {still ? (
        <button
          type="button"
          className="cursor-pointer"
          title={`${row.stage} changed nothing here`}
          onClick={() => onOpened(!opened)}
        >
          {row.stage}
        </button>
      ) : (
        row.stage
      )}
    </th>
  )
}

function TokenCell({
  shines,
  onLight,
  side,
  column,
  folds,
  cell,
  row,
  wanted,
  isTerms,
  met,
}: {
  shines: boolean
  onLight: (side: Side, column: number) => void
  side: Side
  column: number
  folds: boolean
  cell: Cell
  row: Row
  wanted: ReadonlySet<string>
  isTerms: boolean
  met: Set<number>
}) {
  return (
    <td
      data-lit={shines}
      className={`px-2 text-center font-mono text-[14px] whitespace-nowrap ${shines ? 'bg-[var(--mark)]' : ''}`}
      onMouseEnter={() => onLight(side, column)}
    >
      {folds ? (
        cell.texts.length > 0 && <span aria-hidden className="mx-auto block h-[14px] w-px bg-base-300" />
      ) : cell.dropped ? (
        <span className="quiet small" title={`${row.stage} drops it`}>
          dropped
        </span>
      ) : (
        <>
          {chosenTexts(cell.texts, wanted).map((text, j) => (
            <span
              key={j}
              className={`mx-0.5 inline-block px-1 ${cell.changed && !isTerms ? 'border-b-2 border-secondary' : ''} ${
                isTerms
                  ? met.has(column) && (cell.texts.length === 1 || wanted.has(text))
                    ? 'border border-primary font-semibold'
                    : 'border border-base-300'
                  : ''
              }`}
            >
              {text}
            </span>
          ))}
          {cell.texts.length > MOST_TEXTS && (
            <span className="quiet small" title={cell.texts.join(' ')}>
              +{cell.texts.length - MOST_TEXTS}
            </span>
          )}
        </>
      )}
    </td>
  )
}

function QuayLine({ stretches, metRecords }: { stretches: Stretch[]; metRecords: Set<number> }) {
  const line = 'block h-[3px] bg-base-content'
  return (
    <tr aria-label="Quay line" className="h-[30px]">
      <th scope="row" className={`${LABEL} quiet text-[11px] font-normal`}>
        quay line
      </th>
      {stretches.map((stretch, i) => {
        const berth = stretch.kind === 'berth' ? stretch.berth : null
        const meets = berth !== null && berth.record !== null && metRecords.has(berth.record)
        return (
          <td key={i} className="relative min-w-[28px] p-0 align-middle">
            {meets && <span aria-hidden className="absolute inset-y-0 left-1/2 w-[2px] -translate-x-1/2 bg-primary" />}
            <span aria-hidden className={line} />
            {meets && (
              <span
                aria-hidden
                className="absolute top-1/2 left-1/2 h-[9px] w-[9px] -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-base-100 bg-primary"
              />
            )}
          </td>
        )
      })}
    </tr>
  )
}

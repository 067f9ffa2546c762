// Words, the blend and each space side by side, with lines between rows of the same record.
import { useQuery } from '@tanstack/react-query'
import type { Collection, Filter, JudgedSet, RankerChoice } from '../../api/queries'
import { lists, type Lists } from '../../api/spaces'
import { GradeRungs } from '../../parts/grade-rungs'
import { columnOrder, sideOf, ties } from '../../thinking/lists'
import { shownFields, titleOf, type Shown } from '../../thinking/records'
import { Kept, Unanswered } from '../../parts/answered'

const ROW = 46
const HEAD = 56
const GAP = 30

export function ListsView(props: {
  collection: Collection
  query: string
  choice: RankerChoice
  filters: Filter[]
  language: string | null
  judged: JudgedSet['queries'][number] | null
  chosen: string | null
  onChoose: (key: string) => void
}) {
  const { collection } = props
  const found = useQuery(lists(collection.name, props.query, props.choice, props.filters, props.language))
  if (!found.data) return <Unanswered asked={[found]} what="the lists" />
  const { names, lists: rows, notes } = found.data
  const order = columnOrder(names)
  const tallest = Math.max(...rows.map((list) => list.length), 1)
  return (
    <Kept asked={[found]} what="the lists">
      <div className="px-4 pb-4">
        {notes.length > 0 && (
          <ul className="small py-[5px]">
            {notes.map((note) => (
              <li key={note}>{note}</li>
            ))}
          </ul>
        )}
        <div
          className="grid"
          style={{
            height: HEAD + tallest * ROW,
            gridTemplateColumns: order.map(() => 'minmax(0, 1fr)').join(` ${GAP}px `),
          }}
        >
          {order.flatMap((list, column) => [
            ...(column > 0
              ? [
                  <Lines
                    key={`to ${list}`}
                    lists={rows}
                    order={order}
                    column={column - 1}
                    chosen={props.chosen}
                    height={tallest * ROW}
                  />,
                ]
              : []),
            <Column key={list} {...props} found={found.data} list={list} shown={shownFields(collection)} />,
          ])}
        </div>
      </div>
    </Kept>
  )
}

const TITLES: Record<string, string> = { words: 'Words', blended: 'Blended' }

function Column(props: Parameters<typeof ListsView>[0] & { found: Lists; list: number; shown: Shown }) {
  const { found, list, shown } = props
  const name = found.names[list] ?? ''
  const rows = found.lists[list] ?? []
  const isBlend = list === found.names.length - 1
  const only = rows.filter((row) => sideOf(row.ranks) !== 'both').length
  return (
    <section aria-label={`List ${TITLES[name] ?? name}`} className="min-w-0">
      <div className="overflow-hidden pt-2" style={{ height: HEAD }}>
        <h3 className="truncate font-semibold" style={list > 0 && !isBlend ? { color: 'var(--meaning)' } : {}}>
          {TITLES[name] ?? name}
        </h3>
        <p className="quiet small truncate">
          {rows.length === 0
            ? 'finds nothing'
            : isBlend
              ? `${only} of ${rows.length} found by words or by meaning alone`
              : `${only} of ${rows.length} only here`}
        </p>
      </div>
      <ol>
        {rows.map((row, i) => {
          const side = sideOf(row.ranks)
          const title = titleOf(shown, row.key, found.field_values[row.key] ?? {})
          const here = row.key === props.chosen
          return (
            <li key={row.key} style={{ height: ROW }} aria-current={here ? 'true' : undefined} data-side={side}>
              <button
                type="button"
                className={`fills flex h-full w-full cursor-pointer items-center gap-2 border-l-[3px] pl-1 text-left ${here ? 'bg-base-200' : ''}`}
                style={{
                  borderColor:
                    side === 'both' ? 'transparent' : side === 'meaning' ? 'var(--meaning)' : 'var(--color-secondary)',
                }}
                title={`${title}\n${ranksText(found.names, row.ranks)}`}
                onClick={() => props.onChoose(row.key)}
              >
                <span className="figure w-[18px] shrink-0 font-semibold">{i + 1}</span>
                {props.judged && <GradeRungs grade={props.judged.grades[row.key]} />}
                <span className="min-w-0 flex-1">
                  <span
                    dir="auto"
                    className={`wrap-anywhere text-[14px] leading-[17px] ${side === 'both' ? 'line-clamp-2' : 'line-clamp-1 font-semibold'}`}
                  >
                    {title}
                  </span>
                  {side !== 'both' && (
                    <span className="quiet block truncate text-[13px] leading-[15px]">only by {side}</span>
                  )}
                </span>
              </button>
            </li>
          )
        })}
      </ol>
    </section>
  )
}

export const ranksText = (names: readonly string[], ranks: readonly number[]) =>
  ranks.map((rank, i) => `${names[i] ?? ''} ${rank > 0 ? rank : '–'}`).join(' · ')

function Lines(props: {
  lists: Lists['lists']
  order: number[]
  column: number
  chosen: string | null
  height: number
}) {
  const own = ties(props.lists, props.order).filter((tie) => tie.column === props.column)
  const y = (row: number) => row * ROW + ROW / 2
  return (
    <svg aria-hidden width={GAP} height={props.height} className="shrink-0" style={{ marginTop: HEAD }}>
      {own.map((tie) => (
        <path
          key={tie.key}
          d={`M0 ${y(tie.from)} C ${GAP / 2} ${y(tie.from)} ${GAP / 2} ${y(tie.to)} ${GAP} ${y(tie.to)}`}
          fill="none"
          stroke={tie.key === props.chosen ? 'var(--color-primary)' : 'var(--color-base-content)'}
          strokeOpacity={tie.key === props.chosen ? 1 : 0.28}
          strokeWidth={tie.key === props.chosen ? 2 : 1}
        />
      ))}
    </svg>
  )
}

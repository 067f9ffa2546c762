// Several lists side by side: the draft's, and those of kept versions or parked drafts.
import { useQueries, useQuery, type UseQueryResult } from '@tanstack/react-query'
import {
  type Collection,
  measured,
  type Narrowing,
  rankerDifferences,
  type Result,
  search,
  type SearchAnswer,
} from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { Delta } from '../../parts/delta'
import { differencesText } from '../../parts/differences'
import { GradeRungs } from '../../parts/grade-rungs'
import { useAddress } from '../../shell/address'
import { useSetName, type Draft } from '../../shell/use-draft'
import { MAIN_MEASURE, MEASURED } from '../../shell/use-meter'
import { besideList, type BesideList } from '../../thinking/beside'
import { countText, measureText } from '../../thinking/figures'
import { rankMovement } from '../../thinking/movement'
import { shownFields, titleOf, type Shown } from '../../thinking/records'

const SHOWN = 20

export function Beside(props: {
  collection: Collection
  draft: Draft
  query: string
  entries: string[]
  narrowing: Narrowing
  own: SearchAnswer
  grades: Record<string, number> | null
  chosen: string | null
  onChoose: (key: string) => void
}) {
  const { collection, draft, entries } = props
  const { change } = useAddress()
  const lists = entries.map((entry) => besideList(entry, draft.kept)).filter((one): one is BesideList => one !== null)
  const found = useQueries({
    queries: lists.map((list) => search(collection.name, props.query, list.choice, SHOWN, props.narrowing)),
  })
  const shown = shownFields(collection)
  const own = props.own.results.map((result) => result.key)
  type Column = {
    entry: string | null
    name: string
    answer: SearchAnswer | undefined
    asked: UseQueryResult<SearchAnswer> | null
    list: BesideList | null
  }
  const columns: Column[] = [
    { entry: null, name: 'the draft', answer: props.own, asked: null, list: null },
    ...lists.map((list, i) => ({
      ...{ entry: list.entry, name: list.name, list },
      ...{ answer: found[i]?.data, asked: found[i] ?? null },
    })),
  ]
  return (
    <div className="grid" style={{ gridTemplateColumns: `repeat(${columns.length}, minmax(0, 1fr))` }}>
      {columns.map((column) => (
        <section key={column.entry ?? 'draft'} aria-label={`List of ${column.name}`} className="line-r min-w-0">
          <ColumnHead column={column} change={change} entries={entries} collection={collection} draft={draft} />
          {column.asked && !column.answer && <Unanswered asked={[column.asked]} what="its list" />}
          <Kept asked={column.asked ? [column.asked] : []} what="its list">
            <ol>
              {(column.answer?.results ?? []).map((result) => {
                const moved = column.entry === null ? null : rankMovement(result.key, result.rank, own)
                return (
                  <ColumnRow
                    key={result.key}
                    result={result}
                    chosen={props.chosen}
                    onChoose={props.onChoose}
                    grades={props.grades}
                    shown={shown}
                    column={column}
                    moved={moved}
                  />
                )
              })}
            </ol>
          </Kept>
        </section>
      ))}
    </div>
  )
}

function ColumnHead({
  column,
  change,
  entries,
  collection,
  draft,
}: {
  column: { entry: string | null; name: string; answer: SearchAnswer | undefined; list: BesideList | null }
  change: ReturnType<typeof useAddress>['change']
  entries: string[]
  collection: Collection
  draft: Draft
}) {
  return (
    <div className="line-b h-[74px] overflow-hidden px-3 py-2">
      <p className="flex items-baseline gap-2">
        <b className="min-w-0 flex-1 truncate font-semibold">{column.name}</b>
        {column.entry && (
          <button
            type="button"
            aria-label={`Take away the list of ${column.name}`}
            className="quiet px-1"
            onClick={() => change({ beside: entries.filter((one) => one !== column.entry).join(' ') || null })}
          >
            ×
          </button>
        )}
      </p>
      <Standing
        collection={collection}
        draft={draft}
        choice={column.list?.choice ?? draft.choice}
        answer={column.answer}
      />
    </div>
  )
}

function ColumnRow({
  result,
  chosen,
  onChoose,
  grades,
  shown,
  column,
  moved,
}: {
  result: Result
  chosen: string | null
  onChoose: (key: string) => void
  grades: Record<string, number> | null
  shown: Shown
  column: { entry: string | null; name: string; answer: SearchAnswer | undefined; list: BesideList | null }
  moved: number | null
}) {
  return (
    <li
      aria-current={result.key === chosen ? 'true' : undefined}
      className={`line-b ${result.key === chosen ? 'bg-base-200' : ''}`}
    >
      <button
        type="button"
        className="flex w-full cursor-pointer items-baseline gap-2 px-3 py-[5px] text-left"
        onClick={() => onChoose(result.key)}
      >
        <span className="figure w-[20px] shrink-0 font-semibold">{result.rank}</span>
        {grades && <GradeRungs grade={grades[result.key]} />}
        <span dir="auto" className="min-w-0 flex-1 truncate" title={titleOf(shown, result.key, result.field_values)}>
          {titleOf(shown, result.key, result.field_values)}
        </span>
        {column.entry !== null && (
          <span className="quiet small">
            {moved === null ? 'only here' : moved === 0 ? '·' : `${moved > 0 ? '↑' : '↓'}${Math.abs(moved)}`}
          </span>
        )}
      </button>
    </li>
  )
}

// How one of the lists stands: its measure beside the draft's, and what is different about its ranker.
function Standing(props: {
  collection: Collection
  draft: Draft
  choice: BesideList['choice']
  answer: SearchAnswer | undefined
}) {
  const { collection, draft, choice, answer } = props
  const set = useSetName(collection)
  const measuredOfIt = useQuery({ ...measured(collection, set ?? '', choice, MEASURED), enabled: set !== null })
  const measuredOfOwn = useQuery({ ...measured(collection, set ?? '', draft.choice, MEASURED), enabled: set !== null })
  const value = measuredOfIt.data?.figures.measured.means[MAIN_MEASURE]
  const own = measuredOfOwn.data?.figures.measured.means[MAIN_MEASURE]
  const isOwn = choice === draft.choice
  const changes = useQuery({ ...rankerDifferences(collection.name, draft.choice, choice), enabled: !isOwn })
  return (
    <Kept asked={[measuredOfIt, measuredOfOwn, ...(isOwn ? [] : [changes])]} what="its figures">
      <p className="small flex items-baseline gap-2">
        <span className="quiet">{answer ? `${countText(answer.matched)} found` : 'searching …'}</span>
        <span className="flex-1" />
        {value !== undefined && <span className="figure">{measureText(value)}</span>}
        {!isOwn && value !== undefined && own !== undefined && <Delta value={value - own} />}
      </p>
      {!isOwn && (
        <p className="quiet small truncate" title={differencesText(changes.data?.differences)}>
          {changes.data ? differencesText(changes.data.differences) || 'the same ranker' : ''}
        </p>
      )}
    </Kept>
  )
}

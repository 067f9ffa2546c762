// The draft's list: each row with its movement, its grade, its marks and where its score came from.
import { useEffect, useMemo, useRef } from 'react'
import type { Collection, JudgedSet, Result, SearchAnswer } from '../../api/queries'
import { GradeRungs } from '../../parts/grade-rungs'
import { RecordFace } from '../../parts/record-face'
import { SourceBar, type Source } from '../../parts/source-bar'
import { TakeAway } from '../../parts/take-away'
import { useRowsMoving } from '../../parts/use-rows-moving'
import { DidYouMeanLine } from './did-you-mean'
import { ranksText } from './lists-view'
import { RowTools } from './row-tools'
import { useRows } from './use-rows'
import type { Draft } from '../../shell/use-draft'
import { fedBackText } from '../../thinking/fed-back'
import { countText, elapsedText, scoreDigits } from '../../thinking/figures'
import { rankMovement } from '../../thinking/movement'
import { sideOf } from '../../thinking/lists'
import { shownFields, titleOf, type Shown } from '../../thinking/records'

export function Results(props: {
  collection: Collection
  query: string
  draft: Draft
  answer: SearchAnswer
  baseline: SearchAnswer | null
  set: string | null
  judged: JudgedSet['queries'][number] | null
  chosen: string | null
  onChoose: (key: string) => void
  filtered: boolean
  skip: number
  page: number
  onSkip: (skip: number) => void
}) {
  const { answer, judged } = props
  const compact = useRows()[0] === 'compact'
  const shown = useMemo(() => shownFields(props.collection), [props.collection])
  const before = useMemo(() => props.baseline?.results.map((result) => result.key) ?? null, [props.baseline])
  const list = useRef<HTMLOListElement>(null)
  useRowsMoving(list, answer.results.map((result) => result.key).join('\n'))
  useEffect(() => {
    list.current?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest' })
  }, [props.chosen])

  const terms = [...new Set(answer.query_terms.flat())]
  const gone = useMemo(() => {
    const here = new Set(answer.results.map((result) => result.key))
    return props.skip > 0
      ? []
      : (props.baseline?.results.slice(0, props.page).filter((result) => !here.has(result.key)) ?? [])
  }, [answer, props.baseline, props.skip, props.page])
  const digits = scoreDigits(answer.results.map((result) => result.score))
  const secondDigits = scoreDigits(answer.results.flatMap(({ second }) => (second === null ? [] : [second])))
  const longest = Math.max(...answer.results.map((result) => result.score), 0) || 1
  return (
    <>
      <ListHead
        answer={answer}
        judged={judged}
        terms={terms}
        collection={props.collection.name}
        query={props.query}
        shown={shown}
      />
      {answer.did_you_mean !== null && <DidYouMeanLine meant={answer.did_you_mean} />}
      {hasMoreToSay(answer) && <HowRead answer={answer} />}
      {answer.results.length === 0 && (
        <NothingFound terms={terms} judged={judged !== null} asked={answer.read_as} filtered={props.filtered} />
      )}
      <ol ref={list}>
        {answer.results.map((result) => (
          <Row
            key={result.key}
            collection={props.collection.name}
            result={result}
            digits={digits}
            secondDigits={secondDigits}
            shown={shown}
            chosen={result.key === props.chosen}
            longest={longest}
            sources={answer.sources}
            lists={answer.lists}
            moved={before && rankMovement(result.key, result.rank, before)}
            compared={before !== null}
            set={props.set}
            judged={judged}
            onChoose={props.onChoose}
            compact={compact}
          />
        ))}
      </ol>
      {gone.length > 0 && <GoneRows page={props.page} gone={gone} judged={judged} shown={shown} />}
      {(answer.rows > answer.results.length || props.skip > 0) && (
        <Pages skip={props.skip} answer={answer} onSkip={props.onSkip} page={props.page} />
      )}
    </>
  )
}

function ListHead({
  answer,
  judged,
  terms,
  collection,
  query,
  shown,
}: {
  collection: string
  query: string
  shown: Shown
  answer: SearchAnswer
  judged: JudgedSet['queries'][number] | null
  terms: string[]
}) {
  return (
    <div className="line-b sticky top-0 z-10 flex items-baseline gap-4 bg-base-100 px-4 py-2">
      <span>
        <b className="font-semibold">{countText(answer.matched)}</b>{' '}
        <span className="quiet">found in {elapsedText(answer.elapsed_ms)}</span>
      </span>
      <span className="quiet small min-w-0 flex-1 truncate" title={judged?.need ?? terms.join(' ')}>
        {judged ? (
          judged.need
        ) : answer.read_as ? (
          <>read as {answer.read_as}</>
        ) : terms.length > 0 ? (
          <>
            read as{' '}
            {terms
              .slice(0, 12)
              .map((term) => `“${term}”`)
              .join(' ')}
          </>
        ) : (
          'no word of it is left to look for'
        )}
      </span>
      {answer.results.length > 0 && (
        <TakeAway
          what="the rows shown"
          file={`${collection}-${query}`}
          rows={() => [
            ['rank', 'key', 'title', 'score', 'second_stage', 'grade'],
            ...answer.results.map((result) => [
              ...[result.rank, result.key, titleOf(shown, result.key, result.field_values), result.score],
              ...[result.second ?? '', judged?.grades[result.key] ?? ''],
            ]),
          ]}
        />
      )}
      <span className="quiet small">score</span>
    </div>
  )
}

const hasMoreToSay = (answer: SearchAnswer) =>
  [answer.notes, answer.rules, answer.filters].some((said) => said.length > 0) ||
  [answer.kind, answer.fed_back, answer.mended].some((said) => said !== null)

function HowRead({ answer }: { answer: SearchAnswer }) {
  return (
    <ul className="line-b small px-4 py-[5px]" aria-label="How the query was read">
      {answer.notes.map((note) => (
        <li key={note}>{note}</li>
      ))}
      {answer.filters.map((filter) => (
        <li key={filter}>A rule made a filter of it: {filter}.</li>
      ))}
      {answer.kind !== null && <li className="quiet">A query of the kind “{answer.kind}”, with a blend of its own.</li>}
      {answer.mended !== null && (
        <li className="quiet">
          Spaces read it as <span dir="auto">“{answer.mended}”</span>.
        </li>
      )}
      {answer.fed_back !== null && <li className="quiet">{fedBackText(answer.fed_back)}</li>}
      {answer.rules.map((rule) => (
        <li key={rule.number} className="quiet">
          Rule {rule.number + 1} was at work{rule.reason ? `: ${rule.reason}` : ''}.
        </li>
      ))}
    </ul>
  )
}

function GoneRows({
  page,
  gone,
  judged,
  shown,
}: {
  page: number
  gone: Result[]
  judged: JudgedSet['queries'][number] | null
  shown: Shown
}) {
  return (
    <section aria-label="Gone from this page" className="line-b small px-4 py-2">
      <h2 className="quiet">Of the baseline’s first {page}, no longer here</h2>
      <ul>
        {gone.map((result) => (
          <li key={result.key} className="flex items-baseline gap-2">
            <span className="figure w-[22px]">{result.rank}</span>
            {judged && <GradeRungs grade={judged.grades[result.key]} />}
            <span dir="auto" className="min-w-0 truncate">
              {titleOf(shown, result.key, result.field_values)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}

function Pages({
  skip,
  answer,
  onSkip,
  page,
}: {
  skip: number
  answer: SearchAnswer
  onSkip: (skip: number) => void
  page: number
}) {
  return (
    <p className="small flex items-baseline gap-4 px-4 py-3">
      <span className="quiet">
        {countText(skip + 1)} to {countText(skip + answer.results.length)} of {countText(answer.rows)}
        {answer.rows !== answer.matched && ` rows, ${countText(answer.matched)} records`}
      </span>
      <button
        type="button"
        className="link disabled:opacity-40"
        disabled={skip === 0}
        onClick={() => onSkip(Math.max(0, skip - page))}
      >
        before
      </button>
      <button
        type="button"
        className="link disabled:opacity-40"
        disabled={skip + answer.results.length >= answer.rows}
        onClick={() => onSkip(skip + page)}
      >
        next
      </button>
    </p>
  )
}

function NothingFound({
  terms,
  judged,
  asked,
  filtered,
}: {
  terms: string[]
  judged: boolean
  asked: string
  filtered: boolean
}) {
  return (
    <div className="max-w-[60ch] p-4">
      <h2 className="pb-1 text-lg font-semibold">Nothing found</h2>
      <p className="quiet">
        {asked !== '' || filtered
          ? `No record fits all that is asked${asked ? `: ${asked}` : ''}. ${filtered ? 'Drop a filter, or a' : 'A'} sign of the query that asks for less finds more. Why not (n) tells what keeps a record out.`
          : terms.length === 0
            ? 'The query chains leave no word of this query. Chains (g c) shows which stage drops them.'
            : `No record holds ${terms.map((term) => `“${term}”`).join(' or ')} in any reading. Chains (g c) shows how the query is read and where it misses a record.`}
        {judged && ' This is a judged query: it counts as 0 in every measure.'}
      </p>
    </div>
  )
}

function Row(props: {
  collection: string
  result: Result
  digits: number
  secondDigits: number
  shown: Shown
  chosen: boolean
  longest: number
  sources: readonly Source[]
  lists: readonly string[]
  moved: number | null
  compared: boolean
  set: string | null
  judged: JudgedSet['queries'][number] | null
  onChoose: (key: string) => void
  compact: boolean
}) {
  const { result, shown, chosen, compact } = props
  return (
    <li
      data-row={result.key}
      aria-current={chosen ? 'true' : undefined}
      className={`line-b ${chosen ? 'bg-base-200' : ''}`}
    >
      <button
        type="button"
        className={`grid w-full cursor-pointer grid-cols-[22px_34px_18px_minmax(0,1fr)_112px] max-sm:grid-cols-[22px_auto_auto_minmax(0,1fr)_64px] items-start gap-x-2 max-sm:gap-x-1 border-l-[3px] ${compact ? 'py-[3px]' : 'py-2'} pr-4 pl-2 text-left ${
          chosen ? 'border-primary' : 'border-transparent'
        }`}
        onClick={() => props.onChoose(result.key)}
      >
        <span className="figure font-semibold">{result.rank}</span>
        <Moved moved={props.moved} compared={props.compared} />
        <span className="pt-[2px]">
          {props.judged !== null && <GradeRungs grade={props.judged.grades[result.key]} />}
        </span>
        <RecordFace
          collection={props.collection}
          shown={shown}
          recordKey={result.key}
          values={result.field_values}
          marks={result.marks}
          passages={result.passages.filter((one) => one.space === null)}
          compact={compact}
        />
        <span className={`flex flex-col items-end pt-[1px] ${compact ? 'gap-px' : 'gap-[6px]'}`}>
          <span className="figure">
            {result.pinned && (
              <span className="small mr-1 font-semibold text-primary" title="pinned by a rule">
                pinned
              </span>
            )}
            {result.second === null ? (
              result.score.toFixed(props.digits)
            ) : (
              <span title="by what the second stage ordered it">{result.second.toFixed(props.secondDigits)}</span>
            )}
          </span>
          {result.second !== null && (
            <span className="quiet small figure" title="its score before the second stage">
              before {result.score.toFixed(props.digits)}
            </span>
          )}
          <SourceBar sources={props.sources} scores={result.source_scores} longest={props.longest} />
        </span>
      </button>
      {chosen && (
        <RowTools collection={props.collection} set={props.set} judged={props.judged} recordKey={result.key} />
      )}
      {props.lists.length > 0 && <Origins lists={props.lists} result={result} titleField={shown.title} />}
      {result.others > 0 && (
        <p className="quiet small pb-1 pl-[94px]">and {countText(result.others)} more of the same group</p>
      )}
    </li>
  )
}

// In which lists a row stands, and the passage by which meaning found it.
function Origins({
  lists,
  result,
  titleField,
}: {
  lists: readonly string[]
  result: Result
  titleField: string | null
}) {
  const side = sideOf([...result.ranks, result.rank])
  return (
    <p className="small pr-4 pb-[6px] pl-[94px]" data-side={side}>
      <span
        className={side === 'meaning' ? 'font-semibold' : 'quiet'}
        style={side === 'meaning' ? { color: 'var(--meaning)' } : {}}
      >
        {side === 'meaning' && 'only by meaning · '}
        {side === 'words' && 'only by words · '}
        {ranksText(lists, result.ranks)}
      </span>
      {result.passage && result.passage.field !== titleField && (
        <span className="block truncate" title={result.passage.text}>
          <span className="quiet">nearest passage, {result.passage.field}:</span> {result.passage.text}
        </span>
      )}
    </p>
  )
}

function Moved({ moved, compared }: { moved: number | null; compared: boolean }) {
  if (!compared) return <span />
  if (moved === null) return <span className="gain small figure">new</span>
  if (moved === 0)
    return (
      <span className="quiet small figure" aria-label="did not move">
        ·
      </span>
    )
  return (
    <span className="small figure" aria-label={moved > 0 ? `${moved} up` : `${-moved} down`}>
      {moved > 0 ? '↑' : '↓'} {Math.abs(moved)}
    </span>
  )
}

// The draft's list: each row with its movement, its grade, its marks and where its score came from.
import { useEffect, useMemo, useRef } from 'react'
import type { Collection, JudgedSet, Result, SearchAnswer } from '../../api/queries'
import { GradeRungs } from '../../parts/grade-rungs'
import { RecordFace } from '../../parts/record-face'
import { SourceBar } from '../../parts/source-bar'
import { useRowsMoving } from '../../parts/use-rows-moving'
import type { Draft } from '../../shell/use-draft'
import { countText, elapsedText, scoreText } from '../../thinking/figures'
import type { Stretch } from '../../thinking/marks'
import { rankMovement } from '../../thinking/movement'
import { shownFields, type Shown } from '../../thinking/records'

export function Results(props: {
  collection: Collection
  draft: Draft
  answer: SearchAnswer
  baseline: SearchAnswer | null
  judged: JudgedSet['queries'][number] | null
  chosen: string | null
  onChoose: (key: string) => void
}) {
  const { answer, judged, draft } = props
  const shown = useMemo(() => shownFields(props.collection), [props.collection])
  const before = useMemo(() => props.baseline?.results.map((result) => result.key) ?? null, [props.baseline])
  const list = useRef<HTMLOListElement>(null)
  useRowsMoving(list, answer.results.map((result) => result.key).join('\n'))
  useEffect(() => {
    list.current?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest' })
  }, [props.chosen])

  const terms = [...new Set(answer.query_terms.flat())]
  return (
    <>
      <div className="line-b sticky top-0 z-10 flex items-baseline gap-4 bg-base-100 px-4 py-2">
        <span>
          <b className="font-semibold">{countText(answer.matched)}</b> <span className="quiet">found in {elapsedText(answer.elapsed_ms)}</span>
        </span>
        <span className="quiet small min-w-0 flex-1 truncate" title={judged?.need ?? terms.join(' ')}>
          {judged ? judged.need : terms.length > 0 ? <>read as {terms.slice(0, 12).map((term) => `“${term}”`).join(' ')}</> : 'no word of it is left to look for'}
        </span>
        <span className="quiet small">score</span>
      </div>
      {answer.results.length === 0 && <NothingFound terms={terms} judged={judged !== null} />}
      <ol ref={list}>
        {answer.results.map((result) => (
          <Row
            key={result.key}
            collection={props.collection.name}
            result={result}
            shown={shown}
            chosen={result.key === props.chosen}
            longest={answer.results[0]?.score ?? 1}
            sources={answer.active_readings.map((reading, i) => ({
              reading,
              name: draft.baseline.filled_in.readings[reading]?.field ?? '',
              score: result.reading_scores[i] ?? 0,
            }))}
            moved={before && rankMovement(result.key, result.rank, before)}
            compared={before !== null}
            grade={judged?.grades[result.key]}
            isJudged={judged !== null}
            onChoose={props.onChoose}
          />
        ))}
      </ol>
      {answer.matched > answer.results.length && (
        <p className="quiet small px-4 py-3">The first {answer.results.length} of {countText(answer.matched)}.</p>
      )}
    </>
  )
}

function NothingFound({ terms, judged }: { terms: string[]; judged: boolean }) {
  return (
    <div className="max-w-[60ch] p-4">
      <h2 className="pb-1 text-lg font-semibold">Nothing found</h2>
      <p className="quiet">
        {terms.length === 0
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
  shown: Shown
  chosen: boolean
  longest: number
  sources: { reading: number; name: string; score: number }[]
  moved: number | null
  compared: boolean
  grade: number | undefined
  isJudged: boolean
  onChoose: (key: string) => void
}) {
  const { result, shown, chosen } = props
  return (
    <li data-row={result.key} aria-current={chosen ? 'true' : undefined} className={`line-b ${chosen ? 'bg-base-200' : ''}`}>
      <button
        type="button"
        className={`grid w-full cursor-pointer grid-cols-[22px_34px_18px_minmax(0,1fr)_112px] items-start gap-x-2 border-l-[3px] py-2 pr-4 pl-2 text-left ${
          chosen ? 'border-primary' : 'border-transparent'
        }`}
        onClick={() => props.onChoose(result.key)}
      >
        <span className="figure font-semibold">{result.rank}</span>
        <Moved moved={props.moved} compared={props.compared} />
        <span className="pt-[2px]">{props.isJudged && <GradeRungs grade={props.grade} />}</span>
        <RecordFace
          collection={props.collection}
          shown={shown}
          recordKey={result.key}
          values={result.field_values}
          marks={result.marks as Record<string, Stretch[]>}
        />
        <span className="flex flex-col items-end gap-[6px] pt-[1px]">
          <span className="figure">{scoreText(result.score)}</span>
          <SourceBar parts={props.sources} longest={props.longest} />
        </span>
      </button>
    </li>
  )
}

function Moved({ moved, compared }: { moved: number | null; compared: boolean }) {
  if (!compared) return <span />
  if (moved === null) return <span className="gain small figure">new</span>
  if (moved === 0) return <span className="quiet small figure" aria-label="did not move">·</span>
  return (
    <span className="small figure" aria-label={moved > 0 ? `${moved} up` : `${-moved} down`}>
      {moved > 0 ? '↑' : '↓'} {Math.abs(moved)}
    </span>
  )
}

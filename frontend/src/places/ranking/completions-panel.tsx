// What the draft suggests for a beginning, beside what the baseline does, and what it takes to let typing begin anywhere.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { completionsFor, suggestionsCosts, suggestionsTold, type Completion } from '../../api/completions'
import type { Collection, RankerChoice } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { MarkedText } from '../../parts/marked-text'
import { TakeAway } from '../../parts/take-away'
import { TakeTable } from '../../parts/take-table'
import type { Draft } from '../../shell/use-draft'
import {
  bytesText,
  gatheringShare,
  gatheringText,
  piecesOf,
  sourceText,
  toldText,
  usualSources,
  type SuggestionSource,
} from '../../thinking/completions'
import { countText } from '../../thinking/figures'

const SHOWN = 10

type Props = {
  collection: Collection
  draft: Draft
  typed: string
  onTyped: (typed: string) => void
  onTake: (query: string) => void
  onClose: () => void
}

export function CompletionsPanel(props: Props) {
  const { collection, draft, typed, onTyped, onTake } = props
  const told = useQuery(suggestionsTold(collection, draft.choice))
  const usual = told.data && usualSources(told.data)
  const own = named(draft.document.completions?.sources) ?? usual
  const wasOwn = named(draft.baseline.filled_in.completions?.sources) ?? usual
  const differs = !draft.isBaseline
  return (
    <section aria-label="What is suggested" className="line-b px-4 py-2">
      <div className="flex items-center gap-3 pb-1">
        <label className="flex min-w-0 flex-1 items-center gap-2">
          <span className="heading">Typed so far</span>
          <input
            dir="auto"
            autoFocus
            spellCheck={false}
            maxLength={200}
            className="input input-sm max-w-[320px] min-w-0 flex-1 border-base-300 bg-transparent"
            value={typed}
            onChange={(event) => onTyped(event.target.value)}
          />
        </label>
        <button type="button" className="link quiet" onClick={props.onClose}>
          close
        </button>
      </div>
      {told.data?.gathering ? (
        <p className="quiet small" role="status">
          <progress className="progress mr-2 w-[120px]" {...gatheringShare(told.data.gathering)} />
          {gatheringText(told.data.gathering)} It stops when nobody looks at it.
        </p>
      ) : told.data ? (
        <Kept asked={[told]} what="what there is to suggest">
          <p className="quiet small">
            {toldText(told.data)}
            {!told.data.own && ' · from the usual sources'}
          </p>
        </Kept>
      ) : (
        <Unanswered asked={[told]} what="what there is to suggest" />
      )}
      {typed.trim() !== '' && (
        <div className={`grid gap-4 pt-2 ${differs ? 'sm:grid-cols-2' : ''}`}>
          <List
            {...{ collection, typed, onTake }}
            name={differs ? 'Draft' : 'Suggested'}
            choice={draft.choice}
            of={own}
          />
          {differs && (
            <List {...{ collection, typed, onTake }} name="Baseline" choice={draft.baselineChoice} of={wasOwn} />
          )}
        </div>
      )}
      <Costs collection={collection} choice={draft.choice} />
    </section>
  )
}

const named = (sources: readonly SuggestionSource[] | undefined) => (sources?.length ? sources : undefined)

type ListProps = {
  collection: Collection
  typed: string
  name: string
  choice: RankerChoice
  of: readonly SuggestionSource[] | undefined
  onTake: (query: string) => void
}

function List({ collection, typed, name, choice, of, onTake }: ListProps) {
  const found = useQuery(completionsFor(collection, choice, typed, SHOWN))
  const shown = found.data?.completions ?? []
  return (
    <div className="min-w-0">
      <h2 className="heading flex items-baseline justify-between gap-2">
        {name}
        {shown.length > 0 && (
          <TakeAway what={`${name.toLowerCase()} suggestions`} file="completions" rows={() => rowsOf(shown, of)} />
        )}
      </h2>
      {found.data ? (
        <Kept asked={[found]} what="suggestions">
          {shown.length === 0 && !found.data.gathering && <p className="quiet">Nothing that is found begins so.</p>}
          <ol>
            {shown.map((one) => (
              <li key={one.text} className="flex items-baseline gap-2" title={saidOf(one, of)}>
                <button
                  type="button"
                  className="min-h-6 min-w-0 flex-1 cursor-pointer truncate text-left hover:underline"
                  onClick={() => onTake(one.text)}
                >
                  <MarkedText pieces={piecesOf(one)} />
                </button>
                {one.edits > 0 && <span className="quiet small">an edit</span>}
                <span className="quiet small max-w-[40%] truncate">{sourceText(of?.[one.sources[0] ?? 0])}</span>
                <span className="figure">{one.score.toFixed(3)}</span>
              </li>
            ))}
          </ol>
          {!found.data.tried_all && !found.data.gathering && (
            <p className="quiet small">More of them are still to be tried, whether they lead anywhere: type on.</p>
          )}
        </Kept>
      ) : (
        <Unanswered asked={[found]} what="suggestions" />
      )}
    </div>
  )
}

const saidOf = (one: Completion, of: readonly SuggestionSource[] | undefined): string =>
  [
    `score ${one.score.toFixed(3)}, of popularity ${one.popular.toFixed(3)} and fit ${one.fit.toFixed(3)}`,
    `weight ${countText(Math.round(one.weight))}`,
    ...(of ? [`from ${one.sources.map((i) => sourceText(of[i])).join(', ')}`] : []),
  ].join('; ')

const rowsOf = (shown: readonly Completion[], of: readonly SuggestionSource[] | undefined): (string | number)[][] => [
  ['text', 'score', 'popularity', 'fit', 'weight', 'edits', 'from'],
  ...shown.map((one) => [
    one.text,
    one.score,
    one.popular,
    one.fit,
    one.weight,
    one.edits,
    one.sources.map((i) => sourceText(of?.[i])).join(', '),
  ]),
]

// Asked for by a press: it types a hundred suggestions letter by letter, twice.
function Costs({ collection, choice }: { collection: Collection; choice: RankerChoice }) {
  const [wanted, setWanted] = useState(false)
  const costs = useQuery({ ...suggestionsCosts(collection, choice), enabled: wanted })
  if (!wanted) {
    return (
      <button type="button" className="link quiet small pt-1" onClick={() => setWanted(true)}>
        What it takes to begin at any word
      </button>
    )
  }
  if (!costs.data) return <Unanswered asked={[costs]} what="what it takes" />
  return (
    <div className="pt-2">
      <table className="small">
        <thead>
          <tr className="quiet text-left">
            {['typed from', 'places', 'memory', 'to build', 'a key press', '95th percentile'].map((one) => (
              <th key={one} className="pr-4 font-normal">
                {one}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {costs.data.map((one) => (
            <tr key={one.begins}>
              <td className="pr-4">{one.begins === 'word' ? 'any word' : 'the beginning'}</td>
              <td className="figure pr-4">{countText(one.entries)}</td>
              <td className="figure pr-4">{bytesText(one.bytes)}</td>
              <td className="figure pr-4">{one.build_ms.toFixed(0)} ms</td>
              <td className="figure pr-4">{one.median_ms.toFixed(2)} ms</td>
              <td className="figure pr-4">{one.p95_ms.toFixed(2)} ms</td>
            </tr>
          ))}
        </tbody>
      </table>
      <TakeTable what="the table" file="completion-costs" />
    </div>
  )
}

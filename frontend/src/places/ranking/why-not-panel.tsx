// Why a record is not in the list: what it lacks, what shuts it out, and the knob that would bring it in.
import { useQuery } from '@tanstack/react-query'
import { whyNot, type Collection, type Filter, type RankerChoice, type WhyNotAnswer } from '../../api/queries'
import { addEntry } from '../../api/chains'
import { Kept, Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { RecordBox } from '../../parts/record-box'
import { useAddress } from '../../shell/address'
import { useDoing } from '../../shell/use-doing'
import { useTyped } from '../../shell/use-typed'
import { shownFields, titleOf } from '../../thinking/records'
import { Arithmetic } from './why-panel'
import type { Undo } from '../../shell/use-undo'

export function WhyNotPanel(props: {
  collection: Collection
  undo: Undo
  query: string
  choice: RankerChoice
  filters: Filter[]
  language: string | null
  typed: boolean
}) {
  const { collection, undo, query, choice, filters, language } = props
  const { params, change } = useAddress()
  const key = params.get('key') ?? ''
  const [typed, setTyped] = useTyped(key)
  const answer = useQuery({
    ...whyNot(collection.name, { query, key, ranker: choice, filters, language, typed: props.typed }),
    enabled: key !== '' && query.trim() !== '',
  })
  return (
    <div className="px-4 py-3">
      <form
        className="flex gap-2 pb-3"
        onSubmit={(event) => {
          event.preventDefault()
          change({ key: typed.trim() || null })
        }}
      >
        <RecordBox
          autoFocus
          collection={collection.name}
          label="Key or title of a record"
          value={typed}
          onType={setTyped}
          onChoose={(key) => change({ key })}
        />
        <button type="submit" className="btn btn-sm" disabled={typed.trim() === ''}>
          Ask
        </button>
      </form>
      {key === '' && <p className="quiet">Type the key or the title of a record that should be here.</p>}
      {key !== '' && query.trim() === '' && <p className="quiet">There is no query to be found by.</p>}
      {key !== '' && query.trim() !== '' && !answer.data && <Unanswered asked={[answer]} what="what keeps it out" />}
      {answer.data && (
        <Kept asked={[answer]} what="what keeps it out">
          <Found collection={collection} answer={answer.data} undo={undo} />
        </Kept>
      )}
    </div>
  )
}

function Found({ collection, answer, undo }: { collection: Collection; answer: WhyNotAnswer; undo: Undo }) {
  const { why } = answer
  return (
    <>
      <p dir="auto" className="wrap-anywhere font-semibold">
        {titleOf(shownFields(collection), why.key, answer.field_values)}
      </p>
      <p className="pb-2" data-testid="why-not-rank">
        {why.rank === null ? 'It is not in the list.' : `It is number ${why.rank} of the list.`}
      </p>
      <ul className="pb-2">
        {answer.shut_out.map((line) => (
          <li key={line} className="loss wrap-anywhere">
            {line}
          </li>
        ))}
      </ul>
      {answer.suggestions.length > 0 && (
        <Offered
          title="Would bring it in"
          label="Knobs that would bring it in"
          offered={answer.suggestions}
          onTake={(one) => undo.commit(one.document)}
          hint="Each was tried on this query. The judged meter shows what one does to the others."
        />
      )}
      {answer.tried > 0 && answer.suggestions.length === 0 && (
        <p className="quiet line-t py-2">
          {answer.tried === 1 ? 'The one change' : `None of the ${answer.tried} changes`} of the draft that{' '}
          {answer.tried === 1 ? 'was tried does not bring' : 'were tried brings'} it in.
        </p>
      )}
      {answer.untried > 0 && (
        <p className="quiet small pb-2">
          {answer.untried} more {answer.untried === 1 ? 'was' : 'were'} not tried: each builds an index of its own.
        </p>
      )}
      {answer.synonyms.length > 0 && <Synonyms collection={collection} answer={answer} undo={undo} />}
      {answer.missing.map((word) => (
        <MissingWord key={word.word} word={word} />
      ))}
      {(why.rank !== null || why.words.some((word) => word.held)) && (
        <section className="line-t py-2">
          <Arithmetic answer={why} />
        </section>
      )}
    </>
  )
}

type Suggestion = WhyNotAnswer['suggestions'][number]

function Synonyms({ collection, answer, undo }: { collection: Collection; answer: WhyNotAnswer; undo: Undo }) {
  const { act, problem } = useDoing('everything', collection.name)
  // The list first: the draft names the version that it becomes.
  const take = (one: Suggestion) => {
    const list = one.new_list
    if (list === null) return
    void act(() => addEntry(collection.name, list), {
      then: () => undo.commit(one.document),
    })
  }
  return (
    <>
      <Offered
        title="If they mean the same"
        label="Synonyms that would bring it in"
        offered={answer.synonyms}
        onTake={take}
        hint="Each was tried on this query. Taking one keeps a new version of the word list; the draft reads it."
      />
      {problem && <ProblemNote error={problem} />}
    </>
  )
}

function Offered(props: {
  title: string
  label: string
  offered: Suggestion[]
  onTake: (one: Suggestion) => void
  hint: string
}) {
  return (
    <section aria-label={props.label} className="line-t py-2">
      <h3 className="heading quiet pb-1">{props.title}</h3>
      <ul>
        {props.offered.map((one) => (
          <li key={one.words} className="flex items-baseline gap-2 py-[3px]">
            <span className="min-w-0 flex-1 wrap-anywhere">{one.words}</span>
            <span className="quiet small whitespace-nowrap">number {one.rank}</span>
            <button
              type="button"
              className="link font-semibold"
              aria-label={`Take into the draft: ${one.words}`}
              onClick={() => props.onTake(one)}
            >
              take
            </button>
          </li>
        ))}
      </ul>
      <p className="quiet small pt-1">{props.hint}</p>
    </section>
  )
}

function MissingWord({ word }: { word: WhyNotAnswer['missing'][number] }) {
  return (
    <section aria-label={`Missing word ${word.word}`} className="line-t py-2">
      <h3>
        <span className="quiet">it lacks</span> <b className="font-semibold">{word.word}</b>
      </h3>
      <p className="quiet small wrap-anywhere">
        {word.readings.map(({ field, terms }, i) => (
          <span key={i} className="mr-2">
            {field}: <span className="font-mono">{terms.join(' ') || 'nothing left'}</span>
          </span>
        ))}
      </p>
      {word.near.length > 0 ? (
        <table className="small mt-1 w-full">
          <thead>
            <tr className="quiet">
              <th className="text-left font-normal">it has instead</th>
              <th className="text-left font-normal">in</th>
              <th className="figure font-normal">edits</th>
              <th className="figure font-normal" title="share of trigrams">
                alike
              </th>
            </tr>
          </thead>
          <tbody>
            {word.near.map((miss, i) => (
              <tr key={i}>
                <td className="max-w-[110px] truncate font-mono" title={`${miss.said}: ${miss.term}`}>
                  {miss.said}
                  {miss.stem && <span className="quiet font-sans"> same stem ({miss.stem})</span>}
                </td>
                <td className="max-w-[80px] truncate">{miss.field}</td>
                <td className="figure">{miss.edits}</td>
                <td className="figure">{Math.round(miss.similarity * 100)} %</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="quiet small">and nothing like it.</p>
      )}
    </section>
  )
}

// A query played letter by letter, forwards and back: under each letter where the wanted record stands.
import { useQuery } from '@tanstack/react-query'
import { useEffect, useEffectEvent, useState, type KeyboardEvent } from 'react'
import { lettersPlayed, type LetterPlayed } from '../../api/letters'
import type { Collection, Filter, RankerChoice } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { TakeAway } from '../../parts/take-away'
import { countText } from '../../thinking/figures'
import { arrivalText, lettersOf } from '../../thinking/letters'

const STEP_MS = 600

type Props = {
  collection: Collection
  query: string
  choice: RankerChoice
  filters: Filter[]
  language: string | null
  wanted: string | null
  // Which letter is in view, counted from 1.
  at: number
  onAt: (at: number) => void
  // Switches beginnings on; null where they are.
  onBegin: (() => void) | null
}

export function TypingPlayer(props: Props) {
  const { collection, query, choice, filters, language, wanted } = props
  const found = useQuery(lettersPlayed(collection, { query, ranker: choice, filters, language, wanted }))
  return (
    <section aria-label="Letter by letter" className="line-b px-4 py-2">
      {props.onBegin && (
        <p className="pb-1">
          This ranker takes whole words only.{' '}
          <button type="button" className="link" onClick={props.onBegin}>
            Take the last word for a beginning
          </button>
        </p>
      )}
      {found.data ? (
        <Kept asked={[found]} what="the letters">
          <Letters {...props} letters={found.data.letters} isCut={found.data.is_cut} />
        </Kept>
      ) : (
        <Unanswered asked={[found]} what="the letters" />
      )}
    </section>
  )
}

type Played = Props & { letters: LetterPlayed[]; isCut: boolean }

function Letters({ query, wanted, at, onAt, letters, isCut }: Played) {
  const [plays, setPlays] = usePlaying(at, letters.length, onAt)
  const signs = lettersOf(query)
  const step = (event: KeyboardEvent) => {
    const to = { ArrowLeft: at - 1, ArrowRight: at + 1, Home: 1, End: letters.length }[event.key]
    if (to === undefined || to < 1 || to > letters.length) return
    event.preventDefault()
    setPlays(false)
    onAt(to)
  }
  return (
    <>
      <div className="flex items-start gap-3">
        <button
          type="button"
          className="btn btn-sm mt-[2px] w-[68px]"
          aria-pressed={plays}
          onClick={() => {
            if (!plays && at >= letters.length) onAt(1)
            setPlays(!plays)
          }}
        >
          {plays ? 'Pause' : 'Play'}
        </button>
        <div
          role="group"
          aria-label="Letters; arrows go from one to the next"
          className="flex flex-wrap"
          onKeyDown={step}
        >
          {letters.map((one, i) => (
            <button
              key={i}
              type="button"
              tabIndex={i + 1 === at ? 0 : -1}
              ref={(button) => {
                if (i + 1 === at && button?.parentElement?.contains(document.activeElement)) button.focus()
              }}
              aria-pressed={i + 1 === at}
              title={recordsText(one)}
              className={`min-h-11 min-w-7 cursor-pointer border-b-2 px-1 text-center ${i + 1 === at ? 'border-primary font-semibold' : 'border-transparent'}`}
              onClick={() => {
                setPlays(false)
                onAt(i + 1)
              }}
            >
              <span aria-hidden className="block font-mono text-[15px]">
                {signs[i] === ' ' ? '\u00a0' : signs[i]}
              </span>
              <span
                aria-hidden
                className={`figure block text-center! text-[11px] ${one.rank !== null && one.rank <= 10 ? '' : 'quiet'}`}
              >
                {wanted === null ? countText(one.records) : (one.rank ?? '–')}
              </span>
              <span className="sr-only">{saidOf(one, wanted)}</span>
            </button>
          ))}
        </div>
      </div>
      <p className="small flex flex-wrap items-baseline gap-x-3 pt-1">
        <span aria-live="polite">
          {wanted === null ? 'Choose a row: where it stands is told under each letter.' : arrivalText(letters, wanted)}
        </span>
        {isCut && <span className="quiet">Only the first {letters.length} letters are played.</span>}
        <TakeAway
          what="the letters"
          file={`${query}-letters`}
          rows={() => [
            ['typed', 'records', wanted === null ? 'rank' : `rank of ${wanted}`, 'first ten'],
            ...letters.map((one) => [one.typed, one.records, one.rank ?? '', one.keys.join(' ')]),
          ]}
        />
      </p>
    </>
  )
}

const saidOf = (one: LetterPlayed, wanted: string | null) =>
  `“${one.typed}”: ${recordsText(one)}${wanted === null ? '' : `, ${wanted} ${one.rank === null ? 'not there' : `at ${one.rank}`}`}`

const recordsText = ({ records }: LetterPlayed) => `${countText(records)} ${records === 1 ? 'record' : 'records'}`

// Goes on by a letter as long as it plays, and ends at the last one.
function usePlaying(at: number, count: number, onAt: (at: number) => void) {
  const [plays, setPlays] = useState(false)
  const next = useEffectEvent(() => {
    if (at >= count) setPlays(false)
    else onAt(at + 1)
  })
  useEffect(() => {
    if (!plays) return
    const timer = setInterval(next, STEP_MS)
    return () => clearInterval(timer)
  }, [plays])
  return [plays, setPlays] as const
}

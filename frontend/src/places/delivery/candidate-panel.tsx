// Another version that some visitors meet, and which of the two they prefer.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { candidateStanding, endCandidate, offerCandidate, publish, type Published } from '../../api/delivery'
import { rankers, type Collection } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { calledAs } from '../../thinking/delivery'
import { whenText } from '../../thinking/revisions'
import { FIELD, Labelled } from '../coming-in/form'

export function CandidatePanel({ collection, told }: { collection: Collection; told: Published }) {
  return (
    <section aria-label="Candidate">
      <h2 className="heading quiet pb-1">A candidate for some visitors</h2>
      {told.candidate ? (
        <Running collection={collection} told={told} />
      ) : told.live === null ? (
        <p className="quiet small">Once something is live, another version can be tried against it.</p>
      ) : (
        <Offer collection={collection} told={told} />
      )}
    </section>
  )
}

function Running({ collection, told }: { collection: Collection; told: Published }) {
  const { busy, problem, act } = useDoing('delivery', collection.name)
  const candidate = told.candidate
  if (!candidate) return null
  return (
    <>
      <p>
        <b className="font-semibold">{calledAs(candidate)}</b> meets {Math.round(100 * (candidate.share ?? 0))} % of
        visitors since {whenText(candidate.at)},{' '}
        {candidate.mixed ? 'in one list with what is live' : 'in lists of its own'}.
      </p>
      {candidate.note && <p className="quiet wrap-anywhere">{candidate.note}</p>}
      {candidate.mixed ? (
        <Standing collection={collection} />
      ) : (
        <p className="quiet small pt-1">Its lists are its own, so nobody chooses between the two in one list.</p>
      )}
      <Changing needs="own">
        <p className="flex flex-wrap gap-2 pt-2">
          <button
            type="button"
            className="btn btn-sm"
            disabled={busy}
            onClick={() => void act(() => endCandidate(collection.name))}
          >
            End it
          </button>
          <button
            type="button"
            className="btn btn-sm"
            disabled={busy}
            onClick={() =>
              void act(async () => {
                const body = { ranker: candidate.ranker ?? '', version: candidate.version, note: '', overruled: null }
                await publish(collection.name, body)
                await endCandidate(collection.name, 'It is live now.')
              })
            }
          >
            Publish it
          </button>
        </p>
      </Changing>
      {problem && <ProblemNote error={problem} />}
    </>
  )
}

function Standing({ collection }: { collection: Collection }) {
  const found = useQuery({ ...candidateStanding(collection.name), refetchInterval: 30_000 })
  if (found.data === undefined) return <Unanswered asked={[found]} what="how it fares" />
  // It was ended in this moment.
  if (found.data === null) return null
  const { wins, losses, ties, sureness, verdict, ends } = found.data
  const [low, high] = [100 * sureness.low, 100 * sureness.high]
  return (
    <Kept asked={[found]} what="how it fares" className="pt-2">
      <p className={ends ? (wins > losses ? 'gain' : 'loss') : ''}>{verdict}</p>
      <p className="quiet small">
        {wins} for the candidate, {losses} for what is live, {ties} for neither.
      </p>
      {wins + losses > 0 && (
        <svg viewBox="0 0 100 10" preserveAspectRatio="none" className="my-1 block h-[18px] w-full" aria-hidden>
          <line x1="0" y1="5" x2="100" y2="5" stroke="var(--line)" strokeWidth="0.5" />
          <line x1="50" y1="0" x2="50" y2="10" stroke="var(--quiet)" strokeWidth="0.4" />
          <rect
            x={low}
            y="3.5"
            width={Math.max(0.5, high - low)}
            height="3"
            fill="var(--color-secondary)"
            opacity="0.45"
          />
          <rect x={100 * (sureness.share ?? 0.5) - 0.4} y="1.5" width="0.8" height="7" fill="var(--color-primary)" />
        </svg>
      )}
    </Kept>
  )
}

function Offer({ collection, told }: { collection: Collection; told: Published }) {
  const kept = useQuery(rankers(collection.name))
  const { busy, problem, act } = useDoing('delivery', collection.name)
  const [chosen, setChosen] = useState<string | null>(null)
  const [percent, setPercent] = useState(10)
  const [mixed, setMixed] = useState(true)
  if (!kept.data) return <Unanswered asked={[kept]} what="the rankers" />
  const live = `${told.live?.ranker}:${told.live?.version}`
  const names = kept.data.map((one) => `${one.name}:${one.version}`).filter((name) => name !== live)
  const wanted = chosen ?? names[0]
  if (wanted === undefined) return <p className="quiet small">There is no other version yet to try.</p>
  const [ranker = '', version = ''] = wanted.split(':')
  return (
    <form
      aria-label="Offer a candidate"
      onSubmit={(event) => {
        event.preventDefault()
        const body = { ranker, version: Number(version), share: percent / 100, mixed, note: '' }
        void act(() => offerCandidate(collection.name, body))
      }}
    >
      <Changing needs="own">
        <Labelled label="Version">
          <select className={FIELD} value={wanted} onChange={(event) => setChosen(event.target.value)}>
            {names.map((name) => (
              <option key={name} value={name}>
                {name.replace(':', ' ')}
              </option>
            ))}
          </select>
        </Labelled>
        <Labelled label="Share of visitors, in percent">
          <input
            type="number"
            className={FIELD}
            min={1}
            max={100}
            required
            value={percent}
            onChange={(event) => setPercent(Number(event.target.value))}
          />
        </Labelled>
        <label className="flex items-center gap-2 pb-3">
          <input type="checkbox" checked={mixed} onChange={(event) => setMixed(event.target.checked)} />
          in one list with what is live, so that clicks say which of the two they prefer
        </label>
        <button type="submit" className="btn btn-sm" disabled={busy}>
          Offer it
        </button>
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

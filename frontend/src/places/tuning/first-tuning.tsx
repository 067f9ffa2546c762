// Without judgments: queries are made up from the records, and the ranker that the records came with is tuned on them.
import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import type { Import } from '../../api/records'
import { beginFirstTuning, firstTunings, tunings, type Tuning } from '../../api/tuning'
import { ProblemNote } from '../../parts/notes'
import { useDoing } from '../../shell/use-doing'
import { Changing } from '../../shell/changing'

export function FirstTuning({ collection }: { collection: string }) {
  const navigate = useNavigate()
  const { act, busy, problem } = useDoing('everything', collection)
  const begin = () =>
    void act(() => beginFirstTuning(collection), {
      then: (told) => void navigate(addressOf(collection, told)),
    })
  return (
    <div className="pt-2">
      <Changing of={collection}>
        <button type="button" className="btn btn-sm" disabled={busy} onClick={begin}>
          Tune the first ranker on made-up queries
        </button>
      </Changing>
      <p className="quiet small max-w-[60ch] pt-1">
        Nobody needs to have judged anything: two hundred queries for single records are made up from their words, some
        misspelled or cut short. Weights, b and slack of <i>start</i> are tuned on them in about a minute; what holds on
        those held out is kept as a new version.
      </p>
      {problem && <ProblemNote error={problem} />}
    </div>
  )
}

const addressOf = (collection: string, told: Tuning) =>
  `/${collection}/tuning?set=${told.judged_set}&tuning=${told.id}&ranker=${told.plan.ranker}:${told.plan.version}&by=rr`

// The tuning that an import asked for: it follows by itself, also where nobody looks.
export function FirstTuningOfImport({ one }: { one: Import }) {
  const asked = useQuery(firstTunings(one.collection)).data?.find((told) => told.of_import === one.id)
  const known = useQuery(tunings(one.collection)).data
  if (asked?.problem) {
    return (
      <>
        <p className="loss wrap-anywhere">The first ranker is not tuned. {asked.problem}</p>
        <FirstTuning collection={one.collection} />
      </>
    )
  }
  const tuning = known?.find((told) => told.id === asked?.tuning)
  if (!tuning && known && asked?.tuning) return null
  if (!tuning)
    return <p className="quiet">Queries are being made up from the records; then the first ranker is tuned.</p>
  return (
    <p>
      <Link className="link" to={addressOf(one.collection, tuning)}>
        {tuning.state === 'done' ? 'How the first ranker was tuned' : 'Watch the first ranker being tuned'}
      </Link>
    </p>
  )
}

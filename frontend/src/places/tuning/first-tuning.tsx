// Without judgments: queries are made up from the records, and the ranker that the records came with is tuned on them.
import { useNavigate } from 'react-router'
import { beginFirstTuning } from '../../api/tuning'
import { ProblemNote } from '../../parts/notes'
import { useDoing } from '../../shell/use-doing'

export function FirstTuning({ collection }: { collection: string }) {
  const navigate = useNavigate()
  const { act, busy, problem } = useDoing('everything', collection)
  const begin = () =>
    void act(() => beginFirstTuning(collection), {
      then: (told) =>
        void navigate(
          `/${collection}/tuning?set=${told.judged_set}&tuning=${told.id}&ranker=${told.plan.ranker}:${told.plan.version}&by=rr`,
        ),
    })
  return (
    <div className="pt-2">
      <button type="button" className="btn btn-sm" disabled={busy} onClick={begin}>
        Tune the first ranker on made-up queries
      </button>
      <p className="quiet small max-w-[60ch] pt-1">
        Nobody needs to have judged anything: two hundred queries for single records are made up from their words, some
        misspelled or cut short. Weights, b and slack of <i>start</i> are tuned on them in about a minute; what holds on
        those held out is kept as a new version.
      </p>
      {problem && <ProblemNote error={problem} />}
    </div>
  )
}

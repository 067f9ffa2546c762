// A judged set typed letter by letter: after how many letters a relevant record of each query is found.
import { useQuery } from '@tanstack/react-query'
import { useCallback, useState } from 'react'
import { Link } from 'react-router'
import { lettersOfSet, type QueryTyped, type SetTyped } from '../../api/letters'
import { judgedSet, type Collection } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { ProblemNote } from '../../parts/notes'
import { Plotted, type Plotter } from '../../parts/plotted'
import { Select } from '../../parts/select'
import { TakeAway } from '../../parts/take-away'
import { carried, useAddress } from '../../shell/address'
import { useDraft } from '../../shell/use-draft'
import { askedAs } from '../../thinking/judging'
import { byLetters, isFound, lettersTable, lettersText, pointsByLetter, type ByLetter } from '../../thinking/letters'

const FIRSTS = ['1', '3', '10'] as const
// Queries shown at a time.
const STEP = 60

export function LettersView({ collection, set }: { collection: Collection; set: string }) {
  const { params, change } = useAddress()
  const { draft, error } = useDraft(collection)
  const first = FIRSTS.find((one) => one === params.get('among')) ?? '10'
  const against = draft === null || draft.isBaseline ? null : draft.baselineChoice
  const found = useQuery({
    ...lettersOfSet(collection, set, draft?.choice ?? {}, against, Number(first)),
    enabled: draft !== null,
  })
  if (error) return <ProblemNote error={error} />
  if (!found.data || draft === null) return <Unanswered asked={[found]} what="the queries, typed letter by letter" />
  const names = ['the draft', `${draft.baseline.name} ${draft.baseline.version}`] as const
  return (
    <Kept asked={[found]} what="the letters" className="h-full">
      <div className="h-full overflow-y-auto" tabIndex={0} role="region" aria-label="Letters until found">
        <div className="line-b flex flex-wrap items-baseline gap-x-6 gap-y-1 px-4 py-3">
          <Summary told={found.data} />
          <label className="flex items-center gap-2">
            <span className="quiet small">found is among the first</span>
            <Select
              label="Found is among the first"
              className="border-b border-base-300 bg-transparent"
              value={first}
              choices={FIRSTS.map((one) => [one, one] as const)}
              onChoose={(one) => change({ among: one === '10' ? null : one })}
            />
          </label>
          <TakeAway what="the letters" file={`${set}-letters`} rows={() => lettersTable(found.data)} />
        </div>
        {draft.document.typing === null && (
          <p className="quiet px-4 pt-2">
            This ranker takes whole words only; <i>As typed</i> in Ranking takes the last one for a beginning.
          </p>
        )}
        <Success told={found.data} names={draft.isBaseline ? [names[1], names[1]] : names} />
        <Queries told={found.data} collection={collection} set={set} />
      </div>
    </Kept>
  )
}

function Summary({ told }: { told: SetTyped }) {
  const pair = told.compared
  return (
    <div className="min-w-0">
      <p>
        <b className="text-[16px] font-semibold">{told.letters.toFixed(2)}</b> letters until a relevant record is found
        {pair && (
          <>
            , <span className={pair.gain < 0 ? 'gain' : pair.gain > 0 ? 'loss' : ''}>{signed(pair.gain)}</span>{' '}
            <span className="quiet small">
              ({signed(pair.interval.low)} to {signed(pair.interval.high)}; p {pair.randomisation.toFixed(3)}; fewer are
              better)
            </span>
          </>
        )}
      </p>
      <p className="quiet small">
        {told.best.toFixed(2)} if all unjudged records were relevant; with steps down the list{' '}
        {told.keystrokes.toFixed(2)} keystrokes; {Math.round(told.found * 100)} % of {told.queries.length} queries are
        found at all
        {told.notes.length > 0 && `. ${told.notes.join(' ')}`}
      </p>
    </div>
  )
}

const signed = (value: number) => `${value > 0 ? '+' : value < 0 ? '−' : ''}${Math.abs(value).toFixed(2)}`

const [WIDE, HIGH] = [820, 190]

function Success({ told, names }: { told: SetTyped; names: readonly [string, string] }) {
  const make = useCallback(
    (plotter: Plotter) => {
      const points = pointsByLetter(told, names)
      const ends = points.filter((one) => one.letter === told.by_letter.length)
      return {
        marginLeft: 44,
        marginRight: 110,
        x: { label: 'letters typed', tickSize: 0 },
        y: { label: null, domain: [0, 1], ticks: 3 },
        marks: [
          plotter.axisY({ ticks: 3, tickSize: 0, tickFormat: (share: number) => `${Math.round(share * 100)} %` }),
          plotter.line(points, {
            x: 'letter',
            y: 'share',
            z: 'whose',
            curve: 'step-after',
            stroke: 'currentColor',
            strokeWidth: 1.5,
            strokeOpacity: (one: ByLetter) => (one.whose === names[0] ? 1 : 0.4),
          }),
          plotter.text(ends, { x: 'letter', y: 'share', text: 'whose', textAnchor: 'start', dx: 8, dy: nudged(ends) }),
        ],
      }
    },
    [told, names],
  )
  const half = told.by_letter.findIndex((share) => share >= 0.5)
  return (
    <div className="px-4 pt-2">
      <h2 className="heading quiet">Found by letter</h2>
      <Plotted
        make={make}
        what={`Share of queries that are found by each letter: ${half < 0 ? 'never half of them' : `half of them by letter ${half + 1}`}, ${Math.round(told.found * 100)} % in the end`}
        width={WIDE}
        height={HIGH}
      />
    </div>
  )
}

// Two lines that end side by side have their names one above the other.
const nudged = (ends: readonly ByLetter[]) =>
  ends.length > 1 && Math.abs((ends[0]?.share ?? 0) - (ends[1]?.share ?? 0)) < 0.08 ? -7 : 0

function Queries({ told, collection, set }: { told: SetTyped; collection: Collection; set: string }) {
  const { params } = useAddress()
  const [most, setMost] = useState(STEP)
  const judged = useQuery(judgedSet(collection.name, set)).data
  const rows = byLetters(told.queries)
  const playOf = (one: QueryTyped) => {
    const query = judged?.queries.find((own) => own.query_id === one.query_id)
    return `/${collection.name}/ranking${carried(params, { ...(query ? askedAs(query) : { q: one.query }), typed: 'yes' })}`
  }
  return (
    <div className="overflow-x-auto px-4 pb-4">
      <table className="w-full max-w-[820px] text-left">
        <thead>
          <tr className="quiet small">
            <th className="py-1 pr-4 font-normal">query</th>
            <th className="pr-4 text-right font-normal">letters</th>
            {told.compared && <th className="pr-4 text-right font-normal">before</th>}
            <th className="pr-4 text-right font-normal">of</th>
            <th className="text-right font-normal">keystrokes</th>
          </tr>
        </thead>
        <tbody>
          {rows.slice(0, most).map((one) => (
            <tr key={one.query_id} className="line-b">
              <td className="max-w-[360px] truncate py-1 pr-4" dir="auto">
                <Link className="link inline-block min-h-6" title="Play it letter by letter" to={playOf(one)}>
                  {one.query}
                </Link>
              </td>
              <td className={`figure pr-4 text-right ${moveOf(one)}`}>{lettersText(one, one.letters)}</td>
              {told.compared && <td className="figure quiet pr-4 text-right">{lettersText(one, one.before)}</td>}
              <td className="figure quiet pr-4 text-right">{one.of}</td>
              <td className="figure text-right">{isFound(one, one.letters) ? one.keystrokes : ''}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length > most && (
        <button type="button" className="link pt-2" onClick={() => setMost(most + STEP)}>
          {Math.min(STEP, rows.length - most)} more of {rows.length - most}
        </button>
      )}
    </div>
  )
}

const moveOf = (one: QueryTyped) =>
  one.before === null || one.before === one.letters ? '' : one.letters < one.before ? 'gain' : 'loss'

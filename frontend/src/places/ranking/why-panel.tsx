// Why the chosen row is where it is: the arithmetic of its score, from the whole down to the term.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { why, type Collection, type Filter, type RankerChoice, type Result, type WhyAnswer } from '../../api/queries'
import { CopyButton } from '../../parts/copy-button'
import { Kept, Unanswered } from '../../parts/answered'
import { readingShade, sourceShade } from '../../parts/source-bar'
import { useAddress } from '../../shell/address'
import { deltaText, scoreText, weightText } from '../../thinking/figures'
import { shownFields, titleOf } from '../../thinking/records'
import { BlendWhy } from './blend-why'
import { comparedParts, howLiteral, kindWords, multiplies, plainText } from '../../thinking/why'

type ReadingPart = WhyAnswer['readings'][number]
type Asked = {
  collection: Collection
  query: string
  result: Result
  results: Result[]
  choice: RankerChoice
  filters: Filter[]
  language: string | null
  typed: boolean
}

export function WhyPanel(props: Asked) {
  const { collection, query, result, choice, filters, language, typed } = props
  const { params, change } = useAddress()
  const answer = useQuery(why(collection.name, { query, key: result.key, ranker: choice, filters, language, typed }))
  const title = titleOf(shownFields(collection), result.key, result.field_values)
  const versus = params.get('vs')
  const others = props.results.filter((one) => one.key !== result.key)
  const other = others.find((one) => one.key === versus)
  return (
    <>
      <div className="line-b sticky top-0 z-10 flex items-baseline justify-between gap-2 bg-base-100 px-4 py-2">
        <h2 className="heading">
          {answer.data && answer.data.rank === null
            ? 'Why it is not in the list'
            : `Why it is number ${answer.data?.rank ?? (result.rank || '')}`}{' '}
          <span className="quiet font-normal">· {result.key}</span>
        </h2>
        <CopyButton
          what="Copy the arithmetic as text"
          text={() => (answer.data ? plainText(title, answer.data) : '')}
        />
      </div>
      {!answer.data ? (
        <Unanswered asked={[answer]} what="the arithmetic" />
      ) : (
        <Kept asked={[answer]} what="the arithmetic" className="px-4 py-3">
          <p dir="auto" className="wrap-anywhere pb-2 font-semibold">
            {title}
          </p>
          <Arithmetic answer={answer.data} />
          {others.length > 0 && (
            <label className="line-t flex items-center gap-2 pt-2">
              <span className="quiet small whitespace-nowrap">beside number</span>
              <select
                aria-label="Compare with another row"
                className="min-w-0 flex-1 bg-transparent"
                value={other?.key ?? ''}
                onChange={(event) => change({ vs: event.target.value || null })}
              >
                <option value="">none</option>
                {others.map((one) => (
                  <option key={one.key} value={one.key}>
                    {one.rank} · {titleOf(shownFields(collection), one.key, one.field_values)}
                  </option>
                ))}
              </select>
            </label>
          )}
          {other && <Compared {...props} answer={answer.data} other={other} />}
          <p className="quiet small pt-3">
            A term adds idf · worth · tf · (k1 + 1) / (tf + k1 · (1 − b + b · length / average)), with idf = ln(1 + (N −
            df + 0.5) / (df + 0.5)); what stands in for a word is worth less than 1, and no rarer than the word.
          </p>
        </Kept>
      )}
    </>
  )
}

export function Arithmetic({ answer }: { answer: WhyAnswer }) {
  return (
    <>
      {answer.blend && <BlendWhy blend={answer.blend} />}
      <p className="flex items-baseline justify-between pb-2">
        <span className="quiet">{howItIsMade(answer)}</span>
        <b className="figure text-[18px] font-semibold" data-testid="why-score">
          {scoreText(answer.score)}
        </b>
      </p>
      {answer.words.length > 1 && (
        <p className="small pb-2">
          {answer.words.map((word, i) => (
            <span
              key={i}
              className={`mr-2 ${word.held ? 'font-semibold' : 'quiet'}`}
              title={
                word.held
                  ? 'held'
                  : word.counted
                    ? 'not held'
                    : 'it need not be held: a stop word, or no reading looks for it'
              }
            >
              {word.held ? '✓' : word.counted ? '✗' : '–'} {word.word}
            </span>
          ))}
        </p>
      )}
      {answer.pool ? <Pool answer={answer} /> : <ReadingsWhy readings={answer.readings} />}
      {answer.signals.map((part, i) => (
        <section key={i} className="line-t py-2">
          <p className="flex items-baseline gap-2">
            <span
              aria-hidden
              className="h-[11px] w-[11px] shrink-0 border border-base-300"
              style={{ background: sourceShade({ kind: 'signal', number: i }) }}
            />
            <span className="min-w-0 flex-1 truncate font-semibold">
              {part.signal.field}, {part.signal.shape.replace('_', ' ')}
            </span>
            <span className="quiet small whitespace-nowrap">
              {multiplies(part.signal) ? '1 + ' : ''}
              {weightText(part.signal.weight)} × {scoreText(part.value)} =
            </span>
            <span className="figure font-semibold" data-testid={multiplies(part.signal) ? undefined : 'why-part'}>
              {multiplies(part.signal) ? `× ${scoreText(part.amount)}` : scoreText(part.amount)}
            </span>
          </p>
        </section>
      ))}
      {answer.lifts.map((by, i) => (
        <p key={i} className="line-t flex justify-between py-2">
          <span>lifted by a rule</span>
          <span className="figure font-semibold">× {weightText(by)}</span>
        </p>
      ))}
      {answer.pinned && <p className="line-t py-2">Pinned to the top by a rule, whatever its score.</p>}
    </>
  )
}

function howItIsMade(answer: WhyAnswer): string {
  const how =
    answer.how === 'pooled'
      ? 'terms pooled over readings'
      : answer.how === 'strongest'
        ? `the strongest reading${answer.share > 0 ? ` and ${weightText(answer.share)} of the rest` : ''}`
        : 'the sum of its readings'
  return `Score, ${how}${answer.signals.length ? ', with signals' : ''}`
}

// Which parts decide between two rows: the largest differences first.
function Compared(props: Asked & { answer: WhyAnswer; other: Result }) {
  const { collection, query, choice, filters, language, typed, other, answer } = props
  const second = useQuery(why(collection.name, { query, key: other.key, ranker: choice, filters, language, typed }))
  if (!second.data) return <Unanswered asked={[second]} what="the other row" />
  const parts = comparedParts(answer, second.data)
  return (
    <section aria-label="Two rows side by side" className="pt-2">
      <table className="small w-full">
        <thead>
          <tr className="quiet">
            <th className="text-left font-normal">what decides</th>
            <th className="figure font-normal">{answer.key}</th>
            <th className="figure font-normal">{second.data.key}</th>
            <th className="figure font-normal">apart</th>
          </tr>
        </thead>
        <tbody>
          {parts.map((part) => (
            <tr key={part.name}>
              <td className="max-w-[120px] truncate" title={part.name}>
                {part.name}
              </td>
              <td className="figure">{scoreText(part.first)}</td>
              <td className="figure">{scoreText(part.second)}</td>
              <td className={`figure ${part.apart > 0 ? 'gain' : part.apart < 0 ? 'loss' : 'quiet'}`}>
                {deltaText(part.apart)}
              </td>
            </tr>
          ))}
          <tr className="line-t font-semibold">
            <td>score</td>
            <td className="figure">{scoreText(answer.score)}</td>
            <td className="figure">{scoreText(second.data.score)}</td>
            <td className="figure">{deltaText(answer.score - second.data.score)}</td>
          </tr>
        </tbody>
      </table>
    </section>
  )
}

// Those that add nothing are folded into one line, unless nothing else is there.
function ReadingsWhy({ readings }: { readings: ReadingPart[] }) {
  const [open, setOpen] = useState(false)
  const silent = readings.filter((part) => part.terms.length === 0)
  const folded = silent.length > 1 && silent.length < readings.length && !open
  return (
    <>
      {readings
        .filter((part) => !folded || part.terms.length > 0)
        .map((part, i) => (
          <ReadingWhy
            key={i}
            part={part}
            shade={part.number === null ? sourceShade({ kind: 'literal', number: 0 }) : readingShade(part.number)}
          />
        ))}
      {folded && (
        <p className="line-t py-2">
          <button
            type="button"
            className="quiet flex w-full cursor-pointer items-baseline gap-2 text-left"
            title="Show what these readings looked for"
            aria-expanded={false}
            onClick={() => setOpen(true)}
          >
            <span className="min-w-0 flex-1 truncate">{silent.map((part) => part.field).join(', ')}</span>
            <span className="figure">0</span>
          </button>
        </p>
      )}
    </>
  )
}

function ReadingWhy({ part, shade }: { part: ReadingPart; shade: string }) {
  const silent = part.terms.length === 0
  const isWorthLess = part.terms.some((term) => term.worth !== 1)
  return (
    <section className="line-t py-2">
      <p className="flex items-baseline gap-2">
        <span aria-hidden className="h-[11px] w-[11px] shrink-0" style={{ background: shade }} />
        <span className={`min-w-0 flex-1 truncate ${silent ? 'quiet' : 'font-semibold'}`}>
          {part.field}
          {part.number === null && <span className="quiet font-normal">, {howLiteral(part)}</span>}
        </span>
        {!silent && (
          <span className="quiet small whitespace-nowrap">
            {weightText(part.weight)} × {scoreText(part.unweighted)} =
          </span>
        )}
        <span className={`figure ${silent ? 'quiet' : 'font-semibold'}`} data-testid="why-part">
          {scoreText(part.score)}
        </span>
      </p>
      {!silent && (
        <table className="small mt-1 w-full">
          <thead>
            <tr className="quiet">
              <th className="text-left font-normal">term</th>
              <th className="figure font-normal" title="occurrences in this record">
                tf
              </th>
              <th className="figure font-normal" title={`records that hold it, of ${part.record_count}`}>
                df
              </th>
              <th className="figure font-normal" title="how rare it is">
                idf
              </th>
              {isWorthLess && (
                <th className="figure font-normal" title="what it counts for the word that was typed">
                  worth
                </th>
              )}
              <th className="figure font-normal">adds</th>
            </tr>
          </thead>
          <tbody>
            {part.terms.map((term, i) => (
              <tr key={i}>
                <td className="max-w-[120px] truncate font-mono" title={`${term.term}${kindWords(term)}`}>
                  {term.term}
                  {term.times > 1 && <span className="quiet"> ×{term.times}</span>}
                  <span className="quiet font-sans">{kindWords(term)}</span>
                </td>
                <td className="figure">{Math.round(term.frequency * 100) / 100}</td>
                <td className="figure">{term.holding}</td>
                <td className="figure">{term.idf.toFixed(2)}</td>
                {isWorthLess && <td className="figure">{weightText(term.worth)}</td>}
                <td className="figure">{scoreText(term.score)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="quiet small">
        {silent
          ? ''
          : `${part.length} ${part.length === 1 ? 'token' : 'tokens'}, ${part.average_length.toFixed(1)} on average; k1 ${part.k1}, b ${part.b}. `}
        {part.missing.length > 0 && (
          <>
            Not here: <span className="font-mono wrap-anywhere">{part.missing.slice(0, 20).join(' ')}</span>
          </>
        )}
      </p>
    </section>
  )
}

function Pool({ answer }: { answer: WhyAnswer }) {
  return (
    <section className="line-t py-2">
      <table className="small w-full">
        <thead>
          <tr className="quiet">
            <th className="text-left font-normal">term, pooled</th>
            <th className="figure font-normal" title="occurrences of all readings, weighted and measured by length">
              tf
            </th>
            <th className="figure font-normal" title="records that hold it in any reading">
              df
            </th>
            <th className="figure font-normal">idf</th>
            <th className="figure font-normal">adds</th>
          </tr>
        </thead>
        <tbody>
          {(answer.pool ?? []).map((term, i) => (
            <tr key={i}>
              <td
                className="max-w-[120px] truncate font-mono"
                title={term.shares
                  .map(
                    (share) =>
                      `${share.field}: ${weightText(share.weight)} × ${share.frequency} / ${share.length_share.toFixed(2)}`,
                  )
                  .join('\n')}
              >
                {term.term}
                <span className="quiet font-sans">
                  {' '}
                  {[...new Set(term.shares.map((share) => share.field))].join(', ')}
                </span>
              </td>
              <td className="figure">{term.frequency.toFixed(2)}</td>
              <td className="figure">{term.holding}</td>
              <td className="figure">{term.idf.toFixed(2)}</td>
              <td className="figure" data-testid="why-part">
                {scoreText(term.score)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="quiet small pt-1">idf · tf · (k1 + 1) / (tf + k1), k1 {answer.pool_k1}</p>
    </section>
  )
}

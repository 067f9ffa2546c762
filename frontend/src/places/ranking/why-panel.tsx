// Why the chosen row is where it is: the arithmetic of its score, from the whole down to the term.
import { useQuery } from '@tanstack/react-query'
import { why, type Collection, type RankerChoice, type Result, type WhyAnswer } from '../../api/queries'
import { CopyButton } from '../../parts/copy-button'
import { Loading, ProblemNote } from '../../parts/notes'
import { readingShade } from '../../parts/source-bar'
import { scoreText, weightText } from '../../thinking/figures'
import { shownFields, titleOf } from '../../thinking/records'

type ReadingPart = WhyAnswer['readings'][number]

export function WhyPanel(props: { collection: Collection; query: string; result: Result; choice: RankerChoice }) {
  const { collection, query, result, choice } = props
  const answer = useQuery(why(collection.name, query, result.key, choice))
  const title = titleOf(shownFields(collection), result.key, result.field_values)
  const isOld = answer.data && answer.data.key !== result.key
  return (
    <aside aria-label="Why" className="line-l min-h-0 overflow-y-auto">
      <div className="line-b sticky top-0 z-10 flex items-baseline justify-between gap-2 bg-base-100 px-4 py-2">
        <h2 className="heading">
          Why it is number {result.rank} <span className="quiet font-normal">· {result.key}</span>
        </h2>
        <CopyButton what="Copy the arithmetic as text" text={() => (answer.data ? plainText(title, answer.data) : '')} />
      </div>
      {answer.isError && <ProblemNote error={answer.error} />}
      {!answer.isError && (!answer.data || isOld) && <Loading what="the arithmetic" />}
      {answer.data && !isOld && (
        <div className="px-4 py-3">
          <p className="wrap-anywhere pb-2 font-semibold">{title}</p>
          <p className="flex items-baseline justify-between pb-2">
            <span className="quiet">Score, the sum of its readings</span>
            <b className="figure text-[18px] font-semibold" data-testid="why-score">
              {scoreText(answer.data.score)}
            </b>
          </p>
          {answer.data.readings.map((part, i) => (
            <ReadingWhy key={i} part={part} shade={readingShade(i)} />
          ))}
          <p className="quiet small pt-3">
            A term adds idf · tf · (k1 + 1) / (tf + k1 · (1 − b + b · length / average)), with idf = ln(1 + (N − df + 0.5) /
            (df + 0.5)).
          </p>
        </div>
      )}
    </aside>
  )
}

function ReadingWhy({ part, shade }: { part: ReadingPart; shade: string }) {
  const silent = part.terms.length === 0
  return (
    <section className="line-t py-2">
      <p className="flex items-baseline gap-2">
        <span aria-hidden className="h-[11px] w-[11px] shrink-0" style={{ background: shade }} />
        <span className={`min-w-0 flex-1 truncate ${silent ? 'quiet' : 'font-semibold'}`}>{part.field}</span>
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
              <th className="figure font-normal" title="occurrences in this record">tf</th>
              <th className="figure font-normal" title={`records that hold it, of ${part.record_count}`}>df</th>
              <th className="figure font-normal" title="how rare it is">idf</th>
              <th className="figure font-normal">adds</th>
            </tr>
          </thead>
          <tbody>
            {part.terms.map((term) => (
              <tr key={term.term}>
                <td className="max-w-[110px] truncate font-mono" title={term.term}>
                  {term.term}
                  {term.times > 1 && <span className="quiet"> ×{term.times}</span>}
                </td>
                <td className="figure">{term.frequency}</td>
                <td className="figure">{term.holding}</td>
                <td className="figure">{term.idf.toFixed(2)}</td>
                <td className="figure">{scoreText(term.score)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="quiet small">
        {silent ? '' : `${part.length} tokens, ${part.average_length.toFixed(1)} on average; k1 ${part.k1}, b ${part.b}. `}
        {part.missing.length > 0 && (
          <>
            Not here: <span className="font-mono wrap-anywhere">{part.missing.slice(0, 20).join(' ')}</span>
          </>
        )}
      </p>
    </section>
  )
}

function plainText(title: string, answer: WhyAnswer): string {
  const lines = [`${title} (${answer.key}): ${answer.score}`]
  for (const part of answer.readings) {
    lines.push(`  ${part.score} = ${part.weight} × ${part.unweighted}  ${part.field}: ${part.chain}`)
    for (const term of part.terms) {
      lines.push(`    ${term.score}  ${term.term}: tf ${term.frequency}, df ${term.holding} of ${part.record_count}, idf ${term.idf}`)
    }
  }
  return lines.join('\n')
}

// Why, where words and meaning came together: each list's rank and share, the formula step by step, the second stage.
import type { WhyAnswer } from '../../api/queries'
import { readingShade, spaceShade } from '../../parts/source-bar'
import { scoreText, weightText } from '../../thinking/figures'
import { blendWords, partWords } from '../../thinking/blend-why'

type Blend = NonNullable<WhyAnswer['blend']>

export function BlendWhy({ blend }: { blend: Blend }) {
  return (
    <section aria-label="The blend" className="pb-3">
      <p className="flex items-baseline justify-between gap-2 pb-1">
        <span className="quiet">{blendWords(blend)}</span>
        <b className="figure text-[18px] font-semibold" data-testid="blend-score">
          {fine(blend.score)}
        </b>
      </p>
      {blend.kind !== null && <p className="quiet small pb-1">for queries of the kind “{blend.kind}”</p>}
      {blend.lists.map((list, i) => (
        <div key={list.name} className="line-t py-[5px]" data-testid="blend-part">
          <p className="flex items-baseline gap-2">
            <span
              aria-hidden
              className="h-[11px] w-[11px] shrink-0 self-center"
              style={{ background: i === 0 ? readingShade(0) : spaceShade(i - 1) }}
            />
            <b className="min-w-0 flex-1 truncate font-semibold">{list.name}</b>
            {blend.how !== 'formula' && <span className="figure font-semibold">{fine(list.part)}</span>}
          </p>
          <p className="quiet small">{partWords(blend, list)}</p>
        </div>
      ))}
      {blend.formula !== null && (
        <table className="small mt-1 w-full">
          <tbody>
            {blend.steps.map((step) => (
              <tr key={step.text} className="line-t">
                <td className="py-[2px] pr-2 font-mono text-[12px] wrap-anywhere">{step.text}</td>
                <td className="figure align-top">{step.value === null ? 'not listed' : scoreText(step.value)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {blend.second_look && (
        <div className="line-t mt-1 pt-[5px]">
          <p className="flex items-baseline gap-2">
            <b className="min-w-0 flex-1 font-semibold">second stage, word by word</b>
            <span className="figure font-semibold">{scoreText(blend.second_look.score)}</span>
          </p>
          <p className="quiet small">
            {weightText(1 - blend.second_look.weight)} × {scoreText(blend.second_look.place)} for its place +{' '}
            {weightText(blend.second_look.weight)} × {scoreText(blend.second_look.similarity)} for similarity, the mean
            of
          </p>
          <ul className="small">
            {blend.second_look.words.map((word) => (
              <li key={word.word} className="flex gap-2">
                <span className="min-w-0 flex-1 truncate">
                  {word.word} <span className="quiet">by</span> {word.match ?? 'nothing'}
                </span>
                <span className="figure">{scoreText(word.similarity)}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
      <h3 className="quiet small line-t mt-2 pt-2">Its score by words</h3>
    </section>
  )
}

// Reciprocal ranks are small numbers: three decimals would hide what tells them apart.
const fine = (value: number) => (Math.abs(value) < 0.1 && value !== 0 ? value.toFixed(5) : scoreText(value))

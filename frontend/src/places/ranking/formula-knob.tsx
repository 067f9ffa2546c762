// A formula is typed and counts when it is left; what it may name is offered as it is typed, what is wrong is underlined.
import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { useParams } from 'react-router'
import { ProblemError } from '../../api/client'
import { rankerDifferences } from '../../api/queries'
import { CodeBox } from '../../parts/code-box'
import type { Draft } from '../../shell/use-draft'
import { formulaNames, formulaOffer, formulaWrong } from '../../thinking/formula'

// where: of the formula in the ranker document, as problems name it.
export function FormulaKnob({
  draft,
  value,
  where,
  onFormula,
}: {
  draft: Draft
  value: string
  where: string
  onFormula: (formula: string) => void
}) {
  const { collection = '' } = useParams()
  const [typed, setTyped] = useState<string | null>(null)
  const read = useQuery(rankerDifferences(collection, draft.baselineChoice, draft.choice))
  const problems = read.error instanceof ProblemError ? (read.error.problem.problems ?? []) : []
  // Of what is being typed nothing is known yet.
  const wrong = typed === null || typed === value ? formulaWrong(value, where, problems) : null
  const names = formulaNames(draft.document)
  // Left by Escape, what was typed does not count.
  const abandoned = useRef(false)
  const settle = () => {
    const counts = !abandoned.current
    abandoned.current = false
    if (counts && typed !== null && typed.trim() !== '' && typed !== value) onFormula(typed.trim())
    setTyped(null)
  }
  return (
    <div className="py-1">
      <CodeBox
        language="formula"
        label="Formula"
        most={2_000}
        value={typed ?? value}
        invalid={wrong !== null}
        wrong={wrong}
        offer={(source, caret) => formulaOffer(source, caret, names)}
        onChange={setTyped}
        onBlur={settle}
        onEscape={() => {
          abandoned.current = true
        }}
        keys={{
          Enter: () => {
            settle()
            return true
          },
        }}
        className="boxed-code min-h-[52px] text-[13px] leading-[18px]"
      />
      {wrong && (
        <p role="alert" className="loss small wrap-anywhere">
          {wrong.message}
        </p>
      )}
      <p className="quiet small wrap-anywhere">
        It may name{' '}
        {names.map((name, i) => (
          <span key={name}>
            {i > 0 && ', '}
            <code>{name}</code>
          </span>
        ))}
        ; and use + − * / ( ) and min, max, ln, sqrt, abs, above.
      </p>
    </div>
  )
}

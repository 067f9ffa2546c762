// A formula is typed and counts when it is left; what it may name is offered beside it.
import { useState } from 'react'
import type { Draft } from '../../shell/use-draft'
import { formulaNames } from '../../thinking/formula'

export function FormulaKnob({
  draft,
  value,
  onFormula,
}: {
  draft: Draft
  value: string
  onFormula: (formula: string) => void
}) {
  const [typed, setTyped] = useState<string | null>(null)
  const settle = () => {
    if (typed !== null && typed.trim() !== '' && typed !== value) onFormula(typed.trim())
    setTyped(null)
  }
  return (
    <div className="py-1">
      <textarea
        dir="auto"
        aria-label="Formula"
        rows={4}
        maxLength={2000}
        spellCheck={false}
        className="textarea textarea-sm w-full border-base-300 bg-transparent font-mono text-[13px] leading-[18px]"
        value={typed ?? value}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={settle}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && !event.shiftKey) {
            event.preventDefault()
            event.currentTarget.blur()
          }
          if (event.key === 'Escape') setTyped(null)
        }}
      />
      <p className="quiet small wrap-anywhere">
        It may name{' '}
        {formulaNames(draft.document).map((name, i) => (
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

// A box for chain notation. What cannot be read is underlined at its place and told below, with a
// suggestion that one key takes.
import type { ReactNode, Ref } from 'react'
import type { Problem } from '../../api/client'
import { CodeBox, type CodeHandle } from '../../parts/code-box'
import type { Completion } from '../../thinking/completion'
import { offsetsOf } from '../../thinking/place'

export function NotationEditor(props: {
  label: string
  value: string
  placeholder?: string | undefined
  problem: Problem | null
  onChange: (notation: string) => void
  // What may be typed next at a place, null where nothing is known.
  offer?: (source: string, caret: number) => Completion | null
  below?: ReactNode
  after?: ReactNode
  handle?: Ref<CodeHandle> | undefined
}) {
  const { label, value, problem, onChange } = props
  const place = problem?.place
  const [start, end] = place ? offsetsOf(value, place) : [0, 0]
  const mend = problem?.nearest && end > start ? value.slice(0, start) + problem.nearest + value.slice(end) : null
  return (
    <div className="line-b grid grid-cols-[104px_minmax(0,1fr)_auto] items-start px-4 py-2 max-sm:grid-cols-1">
      <span className="quiet small pt-[3px]">{label}</span>
      <div>
        <CodeBox
          handle={props.handle}
          language="notation"
          label={label}
          value={value}
          most={10_000}
          placeholder={props.placeholder}
          invalid={problem !== null}
          wrong={place ? { from: start, to: end, message: problem.detail } : null}
          offer={props.offer}
          onChange={onChange}
          keys={{
            'Alt-Enter': () => {
              if (mend !== null) onChange(mend)
              return mend !== null
            },
          }}
          className="text-[14px] leading-[22px]"
        />
        {props.below}
        {problem && <WhatIsWrong place={place} problem={problem} mend={mend} onChange={onChange} />}
      </div>
      {props.after}
    </div>
  )
}

function WhatIsWrong({
  place,
  problem,
  mend,
  onChange,
}: {
  place: { column: number; length: number; line: number } | null | undefined
  problem: Problem
  mend: string | null
  onChange: (notation: string) => void
}) {
  return (
    <p role="alert" className="small pt-1">
      <span className="loss font-semibold">{place ? `Line ${place.line}, column ${place.column}: ` : ''}</span>
      {problem.detail}{' '}
      {mend !== null && (
        <button
          type="button"
          className="cursor-pointer text-primary underline"
          title="Alt Enter"
          onClick={() => onChange(mend)}
        >
          Use “{problem.nearest}”
        </button>
      )}
    </p>
  )
}

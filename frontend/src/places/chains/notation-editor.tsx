// A box for chain notation. What cannot be read is underlined at its place and told below, with a
// suggestion that one key takes.
import { useLayoutEffect, useRef, type ReactNode, type Ref } from 'react'
import type { Problem } from '../../api/client'
import { offsetsOf } from '../../thinking/place'

export function NotationEditor(props: {
  label: string
  value: string
  placeholder?: string
  problem: Problem | null
  onChange: (notation: string) => void
  after?: ReactNode
  ref?: Ref<HTMLTextAreaElement>
}) {
  const { label, value, problem } = props
  const own = useRef<HTMLTextAreaElement | null>(null)
  const place = problem?.place
  const [start, end] = place ? offsetsOf(value, place) : [0, 0]
  const mend = problem?.nearest && end > start ? value.slice(0, start) + problem.nearest + value.slice(end) : null

  // As tall as its lines, so that nothing is hidden.
  useLayoutEffect(() => {
    if (own.current) {
      own.current.style.height = '0'
      own.current.style.height = `${own.current.scrollHeight}px`
    }
  }, [value])

  const text = 'block w-full whitespace-pre-wrap break-words font-mono text-[14px] leading-[22px]'
  return (
    <div className="line-b grid grid-cols-[104px_minmax(0,1fr)_auto] items-start px-4 py-2">
      <span className="quiet small pt-[3px]">{label}</span>
      <div>
        <div className="relative">
          <div aria-hidden className={`${text} pointer-events-none absolute inset-0 text-transparent`}>
            {place ? (
              <>
                {value.slice(0, start)}
                <span className="underline decoration-error decoration-wavy decoration-2 underline-offset-4" data-testid="underlined">
                  {value.slice(start, end) || '\u00a0'}
                </span>
                {value.slice(end)}
              </>
            ) : (
              value
            )}
          </div>
          <textarea
            ref={(element) => {
              own.current = element
              if (typeof props.ref === 'function') props.ref(element)
              else if (props.ref) props.ref.current = element
            }}
            aria-label={label}
            aria-invalid={problem !== null}
            rows={1}
            maxLength={10_000}
            spellCheck={false}
            placeholder={props.placeholder}
            className={`${text} relative resize-none overflow-hidden bg-transparent outline-offset-4`}
            value={value}
            onChange={(event) => props.onChange(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === 'Escape') event.currentTarget.blur()
              if (event.key === 'Enter' && event.altKey && mend !== null) {
                event.preventDefault()
                props.onChange(mend)
              }
            }}
          />
        </div>
        {problem && (
          <p role="alert" className="small pt-1">
            <span className="loss font-semibold">
              {place ? `Line ${place.line}, column ${place.column}: ` : ''}
            </span>
            {problem.detail}{' '}
            {mend !== null && (
              <button type="button" className="cursor-pointer text-primary underline" title="Alt Enter" onClick={() => props.onChange(mend)}>
                Use “{problem.nearest}”
              </button>
            )}
          </p>
        )}
      </div>
      {props.after}
    </div>
  )
}

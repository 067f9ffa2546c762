// A box for chain notation. What cannot be read is underlined at its place and told below, with a
// suggestion that one key takes.
import { useId, useLayoutEffect, useRef, useState, type KeyboardEvent, type ReactNode, type Ref } from 'react'
import type { Problem } from '../../api/client'
import type { Completion, Option } from '../../thinking/completion'
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
  ref?: Ref<HTMLTextAreaElement>
}) {
  const { label, value, problem } = props
  const own = useRef<HTMLTextAreaElement | null>(null)
  const place = problem?.place
  const [start, end] = place ? offsetsOf(value, place) : [0, 0]
  const mend = problem?.nearest && end > start ? value.slice(0, start) + problem.nearest + value.slice(end) : null

  // Where something is being typed; null where nothing is offered.
  const [typedAt, setTypedAt] = useState<number | null>(null)
  const offered = typedAt === null ? null : (props.offer?.(value, typedAt) ?? null)
  const [chosen, setChosen] = useState(0)
  const listId = useId()
  const look = (caret: number | null) => {
    setTypedAt(caret)
    setChosen(0)
  }
  const take = (option: Option) => {
    if (!offered) return
    const next = value.slice(0, offered.from) + option.insert + value.slice(offered.to)
    const caret = offered.from + option.insert.length
    props.onChange(next)
    look(caret)
    requestAnimationFrame(() => own.current?.setSelectionRange(caret, caret))
  }
  const onKey = (event: KeyboardEvent<HTMLTextAreaElement>) => {
    const option = offered?.options[chosen]
    if (event.key === 'Enter' && event.altKey && mend !== null) {
      event.preventDefault()
      look(null)
      props.onChange(mend)
    } else if (
      offered &&
      option &&
      (event.key === 'Tab' || (event.key === 'Enter' && !event.shiftKey)) &&
      !event.altKey
    ) {
      event.preventDefault()
      take(option)
    } else if (offered && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
      event.preventDefault()
      const count = offered.options.length
      setChosen((chosen + (event.key === 'ArrowDown' ? 1 : count - 1)) % count)
    } else if (event.key === 'Escape') {
      if (offered) look(null)
      else event.currentTarget.blur()
    } else if (event.key === ' ' && event.ctrlKey) {
      event.preventDefault()
      look(event.currentTarget.selectionStart)
    }
  }

  // As tall as its lines, so that nothing is hidden.
  const fit = () => {
    if (!own.current) return
    own.current.style.height = '0'
    own.current.style.height = `${own.current.scrollHeight}px`
  }
  useLayoutEffect(fit, [value])
  useLayoutEffect(() => {
    const box = own.current?.parentElement
    if (!box) return
    let width = box.clientWidth
    const watched = new ResizeObserver(() => {
      // Only another width breaks lines otherwise; the height is set here.
      if (box.clientWidth !== width) fit()
      width = box.clientWidth
    })
    watched.observe(box)
    return () => watched.disconnect()
  }, [])

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
                <span
                  className="underline decoration-error decoration-wavy decoration-2 underline-offset-4"
                  data-testid="underlined"
                >
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
            role="combobox"
            aria-expanded={offered !== null}
            aria-controls={listId}
            aria-activedescendant={offered ? `${listId}-${chosen}` : undefined}
            onChange={(event) => {
              props.onChange(event.target.value)
              look(event.target.selectionStart)
            }}
            onBlur={() => look(null)}
            onKeyDown={onKey}
          />
          {offered && (
            <ul
              id={listId}
              role="listbox"
              aria-label="What may come next"
              className="absolute top-full left-0 z-10 mt-1 w-[440px] border border-base-300 bg-base-100 py-1 shadow-md"
            >
              {offered.options.map((option, i) => (
                <li
                  key={option.insert}
                  id={`${listId}-${i}`}
                  role="option"
                  aria-selected={i === chosen}
                  className={`flex cursor-pointer items-baseline gap-3 px-2 py-px border-l-2 ${i === chosen ? 'border-primary bg-base-200' : 'border-transparent'}`}
                  onMouseDown={(event) => {
                    event.preventDefault()
                    take(option)
                  }}
                >
                  <span className="font-mono text-[13px] font-semibold">{option.insert}</span>
                  <span className="quiet small min-w-0 flex-1 truncate">{option.note}</span>
                </li>
              ))}
            </ul>
          )}
        </div>
        {props.below}
        {problem && (
          <p role="alert" className="small pt-1">
            <span className="loss font-semibold">{place ? `Line ${place.line}, column ${place.column}: ` : ''}</span>
            {problem.detail}{' '}
            {mend !== null && (
              <button
                type="button"
                className="cursor-pointer text-primary underline"
                title="Alt Enter"
                onClick={() => props.onChange(mend)}
              >
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

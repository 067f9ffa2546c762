// A box for chain notation. What cannot be read is underlined at its place and told below, with a
// suggestion that one key takes.
import {
  useId,
  useLayoutEffect,
  useRef,
  useState,
  type KeyboardEvent,
  type ReactNode,
  type Ref,
  type RefObject,
} from 'react'
import type { Problem } from '../../api/client'
import type { Completion, Option } from '../../thinking/completion'
import { offsetsOf } from '../../thinking/place'

const TEXT = 'block w-full whitespace-pre-wrap break-words font-mono text-[14px] leading-[22px]'

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
  const { label, value, problem, onChange } = props
  const ownRef = useFitting(value)
  const place = problem?.place
  const [start, end] = place ? offsetsOf(value, place) : [0, 0]
  const mend = problem?.nearest && end > start ? value.slice(0, start) + problem.nearest + value.slice(end) : null
  const offers = useOffers(value, props.offer, onChange, ownRef)
  const listId = useId()
  const onKey = (event: KeyboardEvent<HTMLTextAreaElement>) => {
    if (event.key === 'Enter' && event.altKey && mend !== null) {
      event.preventDefault()
      offers.look(null)
      onChange(mend)
    } else offers.onKey(event)
  }
  return (
    <div className="line-b grid grid-cols-[104px_minmax(0,1fr)_auto] items-start px-4 py-2 max-sm:grid-cols-1">
      <span className="quiet small pt-[3px]">{label}</span>
      <div>
        <div className="relative">
          <Underlined place={place} value={value} start={start} end={end} />
          <textarea
            dir="auto"
            ref={(element) => {
              ownRef.current = element
              if (typeof props.ref === 'function') props.ref(element)
              else if (props.ref) props.ref.current = element
            }}
            aria-label={label}
            aria-invalid={problem !== null}
            rows={1}
            maxLength={10_000}
            spellCheck={false}
            placeholder={props.placeholder}
            className={`${TEXT} relative resize-none overflow-hidden bg-transparent outline-offset-4`}
            value={value}
            aria-autocomplete="list"
            aria-controls={offers.found ? listId : undefined}
            aria-activedescendant={offers.found ? `${listId}-${offers.chosen}` : undefined}
            onChange={(event) => {
              onChange(event.target.value)
              offers.look(event.target.selectionStart)
            }}
            onBlur={() => offers.look(null)}
            onKeyDown={onKey}
          />
          {offers.found && (
            <Options id={listId} options={offers.found.options} chosen={offers.chosen} onTake={offers.take} />
          )}
        </div>
        {props.below}
        {problem && <WhatIsWrong place={place} problem={problem} mend={mend} onChange={onChange} />}
      </div>
      {props.after}
    </div>
  )
}

function Underlined({
  place,
  value,
  start,
  end,
}: {
  place: { column: number; length: number; line: number } | null | undefined
  value: string
  start: number
  end: number
}) {
  return (
    <div aria-hidden className={`${TEXT} pointer-events-none absolute inset-0 text-transparent`}>
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

function Options({
  id,
  options,
  chosen,
  onTake,
}: {
  id: string
  options: Option[]
  chosen: number
  onTake: (option: Option) => void
}) {
  return (
    <ul
      id={id}
      role="listbox"
      aria-label="What may come next"
      className="absolute top-full left-0 z-10 mt-1 w-[440px] border border-base-300 bg-base-100 py-1 shadow-md"
    >
      {options.map((option, i) => (
        <li
          key={option.insert}
          id={`${id}-${i}`}
          role="option"
          aria-selected={i === chosen}
          className={`flex cursor-pointer items-baseline gap-3 px-2 py-px border-l-2 ${i === chosen ? 'border-primary bg-base-200' : 'border-transparent'}`}
          onMouseDown={(event) => {
            event.preventDefault()
            onTake(option)
          }}
        >
          <span className="font-mono text-[13px] font-semibold">{option.insert}</span>
          <span className="quiet small min-w-0 flex-1 truncate">{option.note}</span>
        </li>
      ))}
    </ul>
  )
}

// What may come next where something is being typed: which is chosen, and what keys do with it.
function useOffers(
  value: string,
  offer: ((source: string, caret: number) => Completion | null) | undefined,
  onChange: (notation: string) => void,
  box: RefObject<HTMLTextAreaElement | null>,
) {
  // Where something is being typed; null where nothing is offered.
  const [typedAt, setTypedAt] = useState<number | null>(null)
  const found = typedAt === null ? null : (offer?.(value, typedAt) ?? null)
  const [chosen, setChosen] = useState(0)
  // Where the caret belongs once what was taken stands in the box.
  const caretAfter = useRef<number | null>(null)
  const look = (caret: number | null) => {
    setTypedAt(caret)
    setChosen(0)
  }
  const take = (option: Option) => {
    if (!found) return
    const caret = found.from + option.insert.length
    onChange(value.slice(0, found.from) + option.insert + value.slice(found.to))
    look(caret)
    caretAfter.current = caret
  }
  // With the text itself, not a frame later: the next letter may be typed by then.
  useLayoutEffect(() => {
    if (caretAfter.current !== null) box.current?.setSelectionRange(caretAfter.current, caretAfter.current)
    caretAfter.current = null
  }, [value, box])
  const onKey = (event: KeyboardEvent<HTMLTextAreaElement>) => {
    const option = found?.options[chosen]
    const takes = event.key === 'Tab' || (event.key === 'Enter' && !event.shiftKey)
    if (option && takes && !event.altKey) {
      event.preventDefault()
      take(option)
    } else if (found && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
      event.preventDefault()
      const count = found.options.length
      setChosen((chosen + (event.key === 'ArrowDown' ? 1 : count - 1)) % count)
    } else if (event.key === 'Escape') {
      if (found) look(null)
      else event.currentTarget.blur()
    } else if (event.key === ' ' && event.ctrlKey) {
      event.preventDefault()
      look(event.currentTarget.selectionStart)
    }
  }
  return { found, chosen, look, take, onKey }
}

// As tall as its lines, so that nothing is hidden.
function useFitting(value: string) {
  const ownRef = useRef<HTMLTextAreaElement | null>(null)
  const fit = () => {
    if (!ownRef.current) return
    ownRef.current.style.height = '0'
    ownRef.current.style.height = `${ownRef.current.scrollHeight}px`
  }
  useLayoutEffect(fit, [value])
  useLayoutEffect(() => {
    const box = ownRef.current?.parentElement
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
  return ownRef
}

// A chain as cards in a row: dragged, moved by keys, switched off for a look, taken out.
import { useEffect, useRef, useState, type KeyboardEvent } from 'react'
import { moved, offAfter, removed, reordered, type Call } from '../../thinking/cards'

export type ChainEdit = { notation: string; off: number[]; calls: Call[] }

export function StageCards(props: {
  label: string
  notation: string
  calls: Call[]
  off: number[]
  // The cards are of an earlier notation: they stay in sight, and nothing is done with them.
  stale: boolean
  onEdit: (edit: ChainEdit) => void
  // Opens the notation at a stage.
  onOpen: (call: Call) => void
}) {
  const { notation, calls, off } = props
  const [dragged, setDragged] = useState<number | null>(null)
  const [over, setOver] = useState<number | null>(null)
  const row = useRef<HTMLOListElement>(null)
  // The card to have the focus once the cards are those of the changed notation.
  const next = useRef<number | null>(null)
  const focus = (place: number) => row.current?.querySelectorAll<HTMLElement>('[data-card]')[place]?.focus()
  useEffect(() => {
    if (props.stale || next.current === null) return
    focus(next.current)
    next.current = null
  }, [props.stale, calls])
  if (calls.length === 0) return null

  const move = (from: number, to: number) => {
    if (props.stale || to < 0 || to >= calls.length || to === from) return
    next.current = to
    props.onEdit({
      notation: moved(notation, calls, from, to),
      off: offAfter(off, calls.length, from, to),
      calls: reordered(calls, from, to),
    })
  }
  const remove = (place: number) => {
    if (props.stale) return
    next.current = Math.max(0, place - 1)
    props.onEdit({
      notation: removed(notation, calls, place),
      off: offAfter(off, calls.length, place, null),
      calls: calls.filter((_, i) => i !== place),
    })
  }
  const turn = (place: number) =>
    !props.stale &&
    props.onEdit({
      notation,
      off: off.includes(place) ? off.filter((one) => one !== place) : [...off, place].sort((a, b) => a - b),
      calls,
    })

  const onKey = (event: KeyboardEvent, place: number) => {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
    if (step !== undefined) {
      event.preventDefault()
      if (event.altKey) move(place, place + step)
      else focus(place + step)
    } else if (event.key === ' ') {
      event.preventDefault()
      turn(place)
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault()
      remove(place)
    } else if (event.key === 'Enter') {
      event.preventDefault()
      const call = calls[place]
      if (call) props.onOpen(call)
    }
  }

  return (
    <ol ref={row} aria-label={props.label} className="flex flex-wrap items-center gap-y-1 pt-1.5">
      {calls.map((call, i) => {
        const isOff = off.includes(i)
        const shape =
          call.kind === 'tokenizer' ? 'border-base-content' : call.kind === null ? 'border-error' : 'border-base-300'
        return (
          <li
            key={i}
            className="group flex items-center"
            draggable
            onDragStart={(event) => {
              event.dataTransfer.effectAllowed = 'move'
              event.dataTransfer.setData('text/plain', call.text)
              setDragged(i)
            }}
            onDragEnd={() => {
              setDragged(null)
              setOver(null)
            }}
            onDragOver={(event) => {
              if (dragged === null) return
              event.preventDefault()
              setOver(i)
            }}
            onDrop={(event) => {
              event.preventDefault()
              if (dragged !== null) move(dragged, i)
              setDragged(null)
              setOver(null)
            }}
          >
            {i > 0 && (
              <span aria-hidden className="quiet px-1 font-mono text-[12px]">
                ›
              </span>
            )}
            <span
              className={`flex items-stretch border bg-base-100 ${shape} ${over === i && dragged !== null ? 'ring-2 ring-primary' : ''} ${dragged === i ? 'opacity-40' : ''}`}
            >
              <button
                type="button"
                data-card
                tabIndex={i === 0 ? 0 : -1}
                aria-pressed={!isOff}
                aria-label={`${call.text}${isOff ? ', switched off' : ''}`}
                title="Drag to move; Space switches it off for a look, Alt with an arrow moves it, Enter edits it, Delete takes it out"
                className={`max-w-[260px] cursor-grab truncate px-1.5 py-px font-mono text-[12px] ${isOff ? 'quiet line-through' : ''} ${call.kind === 'tokenizer' ? 'font-semibold' : ''}`}
                onClick={() => turn(i)}
                onKeyDown={(event) => onKey(event, i)}
              >
                {call.text}
              </button>
              <button
                type="button"
                tabIndex={-1}
                aria-label={`Take ${call.text} out`}
                title="Take it out (Delete)"
                className="quiet w-[18px] cursor-pointer border-l border-base-300 text-[11px] hover:bg-base-200"
                onClick={() => remove(i)}
              >
                ✕
              </button>
            </span>
          </li>
        )
      })}
      {off.length > 0 && (
        <li>
          <button type="button" className="link small ml-3" onClick={() => props.onEdit({ notation, off: [], calls })}>
            all on again
          </button>
        </li>
      )}
    </ol>
  )
}

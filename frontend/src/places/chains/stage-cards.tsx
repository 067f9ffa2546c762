// A chain as cards in a row: dragged, moved by keys, switched off for a look, taken out.
import { useEffect, useRef, useState, type DragEvent, type KeyboardEvent } from 'react'
import { moved, offAfter, removed, reordered, writtenOut, type Call } from '../../thinking/cards'

export type ChainEdit = { notation: string; off: number[]; calls: Call[] }

type Edited = {
  notation: string
  calls: Call[]
  off: number[]
  // The cards are of an earlier notation: they stay in sight, and nothing is done with them.
  stale: boolean
  onEdit: (edit: ChainEdit) => void
}

export function StageCards(
  props: Edited & {
    label: string
    // Opens the notation at a stage.
    onOpen: (call: Call) => void
  },
) {
  const { calls, off } = props
  const { row, focus, move, remove, turn } = useMoves(props)
  const dragging = useDragging(move)
  if (calls.length === 0) return null
  const onKey = (event: KeyboardEvent, place: number) => {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
    const call = calls[place]
    if (step !== undefined && event.altKey) move(place, place + step)
    else if (step !== undefined) focus(place + step)
    else if (event.key === ' ') turn(place)
    else if (event.key === 'Delete' || event.key === 'Backspace') remove(place)
    else if (event.key !== 'Enter') return
    else if (call) props.onOpen(call)
    event.preventDefault()
  }
  return (
    <ol ref={row} aria-label={props.label} className="flex flex-wrap items-center gap-y-1 pt-1.5">
      {calls.map((call, i) => (
        <li key={i} className="group flex items-center" draggable={call.saved == null} {...dragging.on(i, call)}>
          {i > 0 && (
            <span aria-hidden className="quiet px-1 font-mono text-[12px]">
              ›
            </span>
          )}
          {call.saved == null ? (
            <Card
              call={call}
              isFirst={i === 0}
              isOff={off.includes(i)}
              dragged={dragging.dragged === i}
              aimedAt={dragging.aimedAt === i}
              onTurn={() => turn(i)}
              onKey={(event) => onKey(event, i)}
              onRemove={() => remove(i)}
            />
          ) : (
            <SavedCard
              name={call.text}
              notation={call.saved}
              onWriteOut={() => props.onEdit({ notation: writtenOut(props.notation, calls), off: [], calls: [] })}
            />
          )}
        </li>
      ))}
      {off.length > 0 && (
        <li>
          <button
            type="button"
            className="link small ml-3"
            onClick={() => props.onEdit({ notation: props.notation, off: [], calls })}
          >
            all on again
          </button>
        </li>
      )}
    </ol>
  )
}

// What may be done with cards, and which has the focus afterwards.
function useMoves({ notation, calls, off, stale, onEdit }: Edited) {
  const row = useRef<HTMLOListElement>(null)
  // The card to have the focus once the cards are those of the changed notation.
  const next = useRef<number | null>(null)
  const focus = (place: number) => row.current?.querySelectorAll<HTMLElement>('[data-card]')[place]?.focus()
  useEffect(() => {
    if (stale || next.current === null) return
    focus(next.current)
    next.current = null
  }, [stale, calls])
  const move = (from: number, to: number) => {
    // A saved chain stays in front.
    const first = calls[0]?.saved == null ? 0 : 1
    if (stale || Math.min(from, to) < first || to >= calls.length || to === from) return
    next.current = to
    onEdit({
      notation: moved(notation, calls, from, to),
      off: offAfter(off, calls.length, from, to),
      calls: reordered(calls, from, to),
    })
  }
  const remove = (place: number) => {
    if (stale) return
    next.current = Math.max(0, place - 1)
    onEdit({
      notation: removed(notation, calls, place),
      off: offAfter(off, calls.length, place, null),
      calls: calls.filter((_, i) => i !== place),
    })
  }
  const turn = (place: number) => {
    if (stale) return
    const turned = off.includes(place) ? off.filter((one) => one !== place) : [...off, place].sort((a, b) => a - b)
    onEdit({ notation, off: turned, calls })
  }
  return { row, focus, move, remove, turn }
}

// Which card is dragged and over which it is, and what a card needs for it.
function useDragging(move: (from: number, to: number) => void) {
  const [dragged, setDragged] = useState<number | null>(null)
  const [over, setOver] = useState<number | null>(null)
  const end = () => {
    setDragged(null)
    setOver(null)
  }
  const on = (place: number, call: Call) => ({
    onDragStart: (event: DragEvent) => {
      event.dataTransfer.effectAllowed = 'move'
      event.dataTransfer.setData('text/plain', call.text)
      setDragged(place)
    },
    onDragEnd: end,
    onDragOver: (event: DragEvent) => {
      if (dragged === null) return
      event.preventDefault()
      setOver(place)
    },
    onDrop: (event: DragEvent) => {
      event.preventDefault()
      if (dragged !== null) move(dragged, place)
      end()
    },
  })
  return { dragged, aimedAt: dragged === null ? null : over, on }
}

// A saved chain: what it says is read from there, until it is written out.
function SavedCard(props: { name: string; notation: string; onWriteOut: () => void }) {
  return (
    <span className="flex items-stretch border border-base-content bg-base-100">
      <span className="px-1.5 py-px font-mono text-[12px]">
        <b className="font-semibold">{props.name}</b>
        <span className="quiet wrap-anywhere"> {props.notation.replaceAll(' > ', ' › ')}</span>
      </span>
      <button
        type="button"
        data-card
        aria-label={`write out ${props.name}`}
        title="Puts its stages in its place: they can be changed then, and no longer follow the saved chain"
        className="quiet cursor-pointer border-l border-base-300 px-1.5 text-[11px] whitespace-nowrap hover:bg-base-200"
        onClick={props.onWriteOut}
      >
        write out
      </button>
    </span>
  )
}

function Card(props: {
  call: Call
  isFirst: boolean
  isOff: boolean
  dragged: boolean
  aimedAt: boolean
  onTurn: () => void
  onKey: (event: KeyboardEvent) => void
  onRemove: () => void
}) {
  const { call, isOff } = props
  const frame =
    call.kind === 'tokenizer' ? 'border-base-content' : call.kind === null ? 'border-error' : 'border-base-300'
  return (
    <span
      className={`flex items-stretch border bg-base-100 ${frame} ${props.aimedAt ? 'ring-2 ring-primary' : ''} ${props.dragged ? 'opacity-40' : ''}`}
    >
      <button
        type="button"
        data-card
        tabIndex={props.isFirst ? 0 : -1}
        aria-pressed={!isOff}
        aria-label={`${call.text}${isOff ? ', switched off' : ''}`}
        title="Drag to move; Space switches it off for a look, Alt with an arrow moves it, Enter edits it, Delete takes it out"
        className={`max-w-[260px] cursor-grab truncate px-1.5 py-px font-mono text-[12px] ${isOff ? 'quiet line-through' : ''} ${call.kind === 'tokenizer' ? 'font-semibold' : ''}`}
        onClick={props.onTurn}
        onKeyDown={props.onKey}
      >
        {call.text}
      </button>
      <button
        type="button"
        tabIndex={-1}
        aria-label={`Take ${call.text} out`}
        title="Take it out (Delete)"
        className="quiet w-[18px] cursor-pointer border-l border-base-300 text-[11px] hover:bg-base-200"
        onClick={props.onRemove}
      >
        ✕
      </button>
    </span>
  )
}

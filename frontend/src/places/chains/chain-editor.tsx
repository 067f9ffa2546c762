// One chain: its notation and its cards, two ways of editing the same.
import { useQuery } from '@tanstack/react-query'
import { useCallback, useImperativeHandle, useRef, useState, type ReactNode, type Ref } from 'react'
import { wordLists } from '../../api/chains'
import type { Problem } from '../../api/client'
import { stages, type Collection } from '../../api/queries'
import type { CodeHandle } from '../../parts/code-box'
import { fits, placed, type Call } from '../../thinking/cards'
import { completion } from '../../thinking/completion'
import { NotationEditor } from './notation-editor'
import { StageCards } from './stage-cards'

export function ChainEditor(props: {
  collection: Collection
  label: string
  value: string
  off: number[]
  calls: Call[]
  problem: Problem | null
  placeholder?: string | undefined
  onChange: (notation: string, off?: number[]) => void
  after?: ReactNode
  handle?: Ref<CodeHandle> | undefined
}) {
  const { value, handle } = props
  // The cards after a change made on them, until the server has read the notation too.
  const [ahead, setAhead] = useState<Call[]>([])
  const known = useQuery(stages())
  const lists = useQuery(wordLists(props.collection.name))
  const own = useRef<CodeHandle>(null)
  useImperativeHandle(handle, () => ({
    focus: () => own.current?.focus(),
    select: (from, to) => own.current?.select(from, to),
  }))
  const offer = useCallback(
    (source: string, caret: number) => completion(source, caret, known.data ?? [], lists.data ?? []),
    [known.data, lists.data],
  )
  const open = (call: Call) => {
    const letters = Array.from(value)
    const [start, end] = [letters.slice(0, call.start).join('').length, letters.slice(0, call.end).join('').length]
    own.current?.select(start, end)
  }
  // Cards of an answer to an earlier notation would stand for other letters.
  const read = fits(value, props.calls)
  const calls = !read && ahead.length > 0 && fits(value, ahead) ? ahead : props.calls
  const fresh = fits(value, calls)
  return (
    <NotationEditor
      handle={own}
      label={props.label}
      value={value}
      placeholder={props.placeholder}
      problem={props.problem}
      offer={offer}
      onChange={(notation) => props.onChange(notation)}
      after={props.after}
      below={
        value.trim() !== '' && (
          <StageCards
            label={`Cards of the ${props.label.toLowerCase()}`}
            notation={value}
            calls={calls}
            off={props.off}
            stale={!fresh}
            onEdit={(edit) => {
              setAhead(placed(edit.notation, edit.calls))
              props.onChange(edit.notation, edit.off)
            }}
            onOpen={open}
          />
        )
      }
    />
  )
}

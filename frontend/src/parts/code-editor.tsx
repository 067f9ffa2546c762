// The editor of a code box, in a script of its own.
import { useEffectEvent, useImperativeHandle, useLayoutEffect, useRef } from 'react'
import type { CodeProps } from './code-box'
import { CodeView } from './code-view'

export default function CodeEditor(props: CodeProps) {
  const { handle, autoFocus = false, className = '' } = props
  const box = useRef<HTMLDivElement>(null)
  const view = useRef<CodeView | null>(null)
  const make = useEffectEvent((parent: HTMLElement) => new CodeView(parent, props))
  useLayoutEffect(() => {
    if (!box.current) return
    const made = make(box.current)
    view.current = made
    if (autoFocus) made.focus()
    return () => {
      view.current = null
      made.destroy()
    }
  }, [autoFocus])
  useLayoutEffect(() => view.current?.show(props))
  useImperativeHandle(handle, () => ({
    focus: () => view.current?.focus(),
    select: (from, to) => view.current?.select(from, to),
  }))
  return <div ref={box} className={`code ${className}`} />
}

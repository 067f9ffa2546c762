// What stands beside the list where there is room, and lies over it, opened by a button, where there is none.
import { useEffect, useEffectEvent, useRef, useState, type ReactNode } from 'react'

// side: which edge it lies at; name: what the button says.
export function SidePane({ side, name, children }: { side: 'left' | 'right'; name: string; children: ReactNode }) {
  const [open, setOpen] = useState(false)
  const opener = useRef<HTMLButtonElement>(null)
  const closer = useRef<HTMLButtonElement>(null)
  const close = () => {
    setOpen(false)
    opener.current?.focus()
  }
  const closeByKey = useEffectEvent((event: KeyboardEvent) => event.key === 'Escape' && close())
  useEffect(() => {
    if (!open) return
    closer.current?.focus()
    const hear = (event: KeyboardEvent) => void closeByKey(event)
    document.addEventListener('keydown', hear)
    return () => document.removeEventListener('keydown', hear)
  }, [open])
  return (
    <>
      <button
        ref={opener}
        type="button"
        className={`pane-opener btn btn-sm ${side === 'left' ? 'left-3' : 'right-3'}`}
        aria-expanded={open}
        onClick={() => setOpen(true)}
      >
        {name}
      </button>
      <div className="side-pane" data-side={side} data-open={open ? '' : undefined}>
        <button ref={closer} type="button" className="pane-closer link" onClick={close}>
          Back to the list
        </button>
        {children}
      </div>
    </>
  )
}

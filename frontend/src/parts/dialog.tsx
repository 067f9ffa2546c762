// A dialog over the page: it holds the focus while it is open and gives it back, Escape and a click beside it close it.
import { useEffect, useRef, type ReactNode } from 'react'

export function Dialog(props: { label: string; className?: string; onClose: () => void; children: ReactNode }) {
  const { onClose } = props
  const own = useRef<HTMLDialogElement>(null)
  useEffect(() => {
    const dialog = own.current
    if (!dialog || dialog.open) return
    const before = document.activeElement
    dialog.showModal()
    return () => {
      dialog.close()
      if (before instanceof HTMLElement) before.focus()
    }
  }, [])
  return (
    <dialog
      ref={own}
      aria-label={props.label}
      className={`m-auto max-h-[calc(100dvh-32px)] max-w-[calc(100vw-32px)] overflow-y-auto border border-base-300 bg-base-100 text-base-content backdrop:bg-black/40 ${props.className ?? ''}`}
      onCancel={(event) => {
        event.preventDefault()
        onClose()
      }}
      // A click on what is behind it is one on the dialog itself, outside of its box.
      onMouseDown={(event) => event.target === event.currentTarget && isOutside(event) && onClose()}
    >
      {props.children}
    </dialog>
  )
}

function isOutside(event: React.MouseEvent<HTMLDialogElement>): boolean {
  const box = event.currentTarget.getBoundingClientRect()
  return event.clientX < box.left || event.clientX > box.right || event.clientY < box.top || event.clientY > box.bottom
}

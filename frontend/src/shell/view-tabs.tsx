// The views of a place, left to right, also by the keys 1, 2, 3 …
import { type ReactNode } from 'react'
import { pressByArrow } from '../parts/arrows'
import { typing, useKeys } from './keys'

export type Tab = { view: string; name: string; extra?: ReactNode }

export function ViewTabs(props: {
  label: string
  tabs: readonly Tab[]
  here: string
  onOpen: (view: string) => void
  children?: ReactNode
}) {
  const { tabs, onOpen } = props
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
    const chosen = tabs[Number(event.key) - 1]
    if (chosen) onOpen(chosen.view)
  })
  return (
    <nav
      aria-label={props.label}
      onKeyDown={pressByArrow}
      className="line-b flex flex-wrap items-stretch gap-x-1 px-2 print:hidden"
    >
      {tabs.map(({ view, name, extra }, i) => (
        <button
          key={view}
          type="button"
          title={`${name} (${i + 1})`}
          aria-current={view === props.here ? 'page' : undefined}
          className={`cursor-pointer border-b-[3px] px-3 pt-2 pb-[5px] ${
            view === props.here ? 'border-primary font-semibold' : 'quiet border-transparent hover:bg-base-200'
          }`}
          onClick={() => onOpen(view)}
        >
          {name}
          {extra}
        </button>
      ))}
      {props.children}
    </nav>
  )
}

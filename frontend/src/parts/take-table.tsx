// The table that stands beside this in the page, taken along as it is shown.
import { useRef } from 'react'
import { asShown } from '../thinking/csv'
import { TakeAway } from './take-away'

export function TakeTable({ what, file }: { what: string; file: string }) {
  const own = useRef<HTMLSpanElement>(null)
  return (
    <span ref={own}>
      <TakeAway what={what} file={file} rows={() => rowsOf(tableBeside(own.current))} />
    </span>
  )
}

// The nearest one: in what holds both.
function tableBeside(from: HTMLElement | null): HTMLTableElement | null {
  for (let at = from?.parentElement ?? null; at; at = at.parentElement) {
    const table = at.querySelector('table')
    if (table) return table
  }
  return null
}

const rowsOf = (table: HTMLTableElement | null): string[][] =>
  [...(table?.rows ?? [])].map((row) => [...row.cells].map((cell) => asShown(cell.innerText)))

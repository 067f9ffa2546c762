// A table taken along: copied as CSV, or saved as a file.
import { csv } from '../thinking/csv'
import { CopyButton } from './copy-button'

type Rows = readonly (readonly (string | number)[])[]

// what: as in “Copy the list as CSV”; file: its name without the ending.
export function TakeAway({ what, file, rows }: { what: string; file: string; rows: () => Rows }) {
  const save = () => {
    const address = URL.createObjectURL(new Blob([csv(rows())], { type: 'text/csv;charset=utf-8' }))
    const link = document.createElement('a')
    link.href = address
    link.download = `${file.replaceAll(/[^\p{L}\p{N}._-]+/gu, '-')}.csv`
    link.click()
    URL.revokeObjectURL(address)
  }
  return (
    <span className="inline-flex items-baseline">
      <CopyButton what={`Copy ${what} as CSV`} text={() => csv(rows())} />
      <button
        type="button"
        className="btn btn-ghost btn-xs font-normal"
        title={`Save ${what} as a CSV file`}
        onClick={save}
      >
        Save
      </button>
    </span>
  )
}

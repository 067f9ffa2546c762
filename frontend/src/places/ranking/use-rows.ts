// How high the rows of the list are: as the address says, else as they were last in this browser.
import { useAddress } from '../../shell/address'

export type RowsAre = 'whole' | 'compact'

const NAME = 'paleharbor.rows'

export function useRows(): [RowsAre, (rows: RowsAre) => void] {
  const { params, change } = useAddress()
  const said = params.get('rows') ?? last()
  return [
    said === 'compact' ? 'compact' : 'whole',
    (rows) => {
      try {
        window.localStorage.setItem(NAME, rows)
      } catch {
        // A browser may keep nothing; the address says it.
      }
      change({ rows })
    },
  ]
}

function last(): string | null {
  try {
    return window.localStorage.getItem(NAME)
  } catch {
    return null
  }
}

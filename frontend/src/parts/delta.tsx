import { deltaText } from '../thinking/figures'
import { movement } from '../thinking/movement'

const STYLE = { gained: 'gain', lost: 'loss', still: 'quiet' }

// A signed difference: its sign and its colour say the same. Where one of the two is missing there is none.
export function Delta({ value }: { value: number | undefined }) {
  if (value === undefined) return <span className="figure quiet">–</span>
  return <span className={`figure ${STYLE[movement(value)]}`}>{deltaText(value)}</span>
}

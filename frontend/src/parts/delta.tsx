import { deltaText } from '../thinking/figures'
import { movement } from '../thinking/movement'

const STYLE = { gained: 'gain', lost: 'loss', still: 'quiet' }

// A signed difference: its sign and its colour say the same.
export function Delta({ value }: { value: number }) {
  return <span className={`figure ${STYLE[movement(value)]}`}>{deltaText(value)}</span>
}

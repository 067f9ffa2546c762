// A number with its name before it, and what it was where it was turned.
import { weightText } from '../../thinking/figures'
import { NumberBox } from './controls'

export function Small(props: {
  name: string
  label: string
  value: number
  was: number | undefined
  least: number
  most: number
  onValue: (value: number) => void
}) {
  const moved = props.was !== undefined && props.was !== props.value
  return (
    <div className="small flex items-center justify-between gap-2 py-[2px]">
      <span className="min-w-0 flex-1">{props.label}</span>
      {moved && <span className="quiet">was {weightText(props.was ?? 0)}</span>}
      <NumberBox
        name={props.name}
        value={props.value}
        moved={moved}
        least={props.least}
        most={props.most}
        onValue={props.onValue}
      />
    </div>
  )
}

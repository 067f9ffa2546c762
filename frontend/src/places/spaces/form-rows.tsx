// Rows of a form, each with its name, and a whole number within its bounds.
export function Row({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <div className="line-t grid grid-cols-[120px_minmax(0,1fr)] gap-4 py-2">
      <span className="quiet pt-[3px]">{name}</span>
      <div>{children}</div>
    </div>
  )
}

export function Count(props: {
  name: string
  value: number
  least: number
  most: number
  onValue: (value: number) => void
}) {
  return (
    <input
      aria-label={props.name}
      type="number"
      min={props.least}
      max={props.most}
      className="input input-sm figure w-[90px] border-base-300 bg-transparent"
      value={props.value}
      onChange={(event) =>
        props.onValue(
          Math.max(props.least, Math.min(props.most, Math.round(Number(event.target.value)) || props.least)),
        )
      }
    />
  )
}

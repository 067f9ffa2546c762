// A choice of one among a few, its values of their own type.
export function Select<T extends string>(props: {
  label: string
  value: T
  // Each with the words that it is shown by.
  choices: readonly (readonly [T, string])[]
  onChoose: (value: T) => void
  className: string
  title?: string
}) {
  return (
    <select
      aria-label={props.label}
      title={props.title}
      className={props.className}
      value={props.value}
      onChange={(event) => {
        const chosen = props.choices.find(([value]) => value === event.target.value)
        if (chosen) props.onChoose(chosen[0])
      }}
    >
      {props.choices.map(([value, words]) => (
        <option key={value} value={value}>
          {words}
        </option>
      ))}
    </select>
  )
}

// Which two are compared, by which measure.
import { useQuery } from '@tanstack/react-query'
import { offeredMeasures } from '../../api/queries'
import { useAddress } from '../../shell/address'
import type { NamedSide } from '../../thinking/sides'

export function PairBar(props: {
  there: NamedSide[]
  chosen: [NamedSide, NamedSide]
  measure: string
  children?: React.ReactNode
}) {
  const { there, chosen, measure } = props
  const { change } = useAddress()
  const offered = useQuery(offeredMeasures()).data ?? []
  const select = 'boxed w-auto max-w-[230px] bg-transparent'
  const names = (other: string) =>
    there.map((one) => (
      <option key={one.name} value={one.name} disabled={one.name === other}>
        {one.name}
      </option>
    ))
  return (
    <div className="line-b flex flex-wrap items-center gap-2 px-4 py-2 print:hidden">
      <select
        aria-label="First ranker"
        className={select}
        value={chosen[0].name}
        onChange={(event) => change({ first: event.target.value, second: chosen[1].name })}
      >
        {names(chosen[1].name)}
      </select>
      <button
        type="button"
        className="btn btn-ghost btn-xs"
        title="The other way round"
        onClick={() => change({ first: chosen[1].name, second: chosen[0].name })}
      >
        ⇄
      </button>
      <select
        aria-label="Second ranker"
        className={select}
        value={chosen[1].name}
        onChange={(event) => change({ first: chosen[0].name, second: event.target.value })}
      >
        {names(chosen[0].name)}
      </select>
      <select
        aria-label="Measure"
        className={select}
        value={measure}
        onChange={(event) => change({ measure: event.target.value })}
      >
        {[...new Set([...offered, measure])].map((one) => (
          <option key={one}>{one}</option>
        ))}
      </select>
      <span className="flex-1" />
      {props.children}
    </div>
  )
}

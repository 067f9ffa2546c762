// Earlier tunings, the newest first.
import type { Collection } from '../../api/queries'
import type { Tuning } from '../../api/tuning'
import { standingOf } from '../../thinking/tuning'

export function TuningsList(props: {
  collection: Collection
  tunings: Tuning[]
  here: number | null
  onOpen: (id: number) => void
}) {
  if (props.tunings.length === 0) return null
  return (
    <section aria-label="Tunings" className="px-4 py-3">
      <h2 className="heading quiet pb-1">Tunings</h2>
      <ul>
        {props.tunings.map((one) => (
          <li key={one.id} className="line-b">
            <button
              type="button"
              aria-current={one.id === props.here}
              className={`block w-full cursor-pointer border-l-[3px] px-3 py-2 text-left hover:bg-base-200 ${
                one.id === props.here ? 'border-primary' : 'border-transparent'
              }`}
              onClick={() => props.onOpen(one.id)}
            >
              <span className="font-semibold">{titleOf(one)}</span>{' '}
              <span className="quiet small">{one.begun_at.slice(0, 16).replace('T', ' ')}</span>
              <span className="quiet small block wrap-anywhere">{standingOf(one)}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}

const titleOf = (one: Tuning) => {
  const name = one.plan.ranker ?? 'a ranker'
  const ranker = one.plan.document ? `draft of ${name}` : one.plan.version ? `${name}:${one.plan.version}` : name
  return `${ranker} on ${one.judged_set}`
}

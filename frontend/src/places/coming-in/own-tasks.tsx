// What whoever is signed in is asked to judge: all there is for somebody who judges and does nothing else here.
import { useQuery } from '@tanstack/react-query'
import { here } from '../../api/base'
import { me, ownTasks, signOut } from '../../api/people'
import { Unanswered } from '../../parts/answered'
import { useDoing } from '../../shell/use-doing'
import { Sheet } from './form'

export function OwnTasks() {
  const known = useQuery(me())
  const found = useQuery(ownTasks())
  const { act } = useDoing(null)
  return (
    <Sheet title="What there is to judge">
      <TaskList />
      {found.data?.length === 0 && (
        <p className="quiet">
          You are a member of no collection that you could look at. Whoever invited you can change that.
        </p>
      )}
      <p className="small pt-6">
        <span className="quiet">Signed in as {known.data?.person?.shown}. </span>
        <button
          type="button"
          className="link"
          onClick={() => void act(signOut, { then: () => window.location.assign(here('/')) })}
        >
          Sign out
        </button>
      </p>
    </Sheet>
  )
}

export function TaskList() {
  const found = useQuery(ownTasks())
  if (!found.data) return <Unanswered asked={[found]} what="what there is to judge" />
  if (found.data.length === 0) return <p className="quiet">Nothing is given to you at present.</p>
  return (
    <ul aria-label="What there is to judge">
      {found.data.map((one) => (
        <li key={one.task_id} className="line-b flex flex-wrap items-baseline gap-x-3 py-2">
          <a className="link font-semibold" href={here(`/judge/own-${one.task_id}`)}>
            {one.name}
          </a>
          <span className="quiet small">
            {one.collection}, {one.judged_set}
          </span>
          <span className="figure ml-auto">
            {one.judged} of {one.items}
          </span>
          {one.closed && <span className="loss small">closed</span>}
        </li>
      ))}
    </ul>
  )
}

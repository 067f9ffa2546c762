// Judging tasks: pools shared out among judges, each with a link; how far they are.
import { here } from '../../api/base'
import { TakeTable } from '../../parts/take-table'
import { useQuery } from '@tanstack/react-query'
import { useState, type ReactNode } from 'react'
import { closeTask, drawLinkBack, dropTask, linkOf, makeTask, newLink, tasksOf, type Task } from '../../api/judging'
import { outsideRankers, type Side } from '../../api/comparing'
import { CopyButton } from '../../parts/copy-button'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { useDraft } from '../../shell/use-draft'
import { sidesThere } from '../../thinking/sides'
import { SamePeople, useSamePeople } from './same-people'
import type { SetProps } from './set-props'
import { useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { Kept, Unanswered } from '../../parts/answered'
import { Changing } from '../../shell/changing'

export function TasksView({ collection, set }: SetProps) {
  const found = useQuery(tasksOf(collection.name, set.name))
  const { busy, problem, act } = useDoing('judging', collection.name)
  const { change } = useAddress()
  useKeys((event: KeyboardEvent) => {
    if (event.key === 'n' && !typing(event) && !event.ctrlKey && !event.metaKey) {
      event.preventDefault()
      document.getElementById('judges')?.focus()
    }
  })
  if (!found.data) return <Unanswered asked={[found]} what="the tasks" />
  return (
    <Kept asked={[found]} what="the tasks" className="h-full">
      <div className="panes grid h-full grid-cols-[minmax(0,1fr)_400px]">
        <section aria-label="Judging tasks" className="min-h-0 overflow-y-auto">
          {problem && <ProblemNote error={problem} />}
          {found.data.length === 0 && (
            <p className="quiet max-w-[64ch] p-6">
              No task yet. A task is a pool of records: the first ones of the rankers you choose, mixed, without ranks
              or names. Every judge gets a link and needs nothing else.
            </p>
          )}
          <ol>
            {found.data.map((task) => (
              <TaskLine
                key={task.id}
                task={task}
                busy={busy}
                onClose={() => act(() => closeTask(collection.name, set.name, task.id, !task.closed))}
                onDrop={() => act(() => dropTask(collection.name, set.name, task.id))}
                onAgreement={() => change({ view: 'agreement' }, false)}
                links={{
                  onLink: (judge) => act(() => newLink(collection.name, set.name, task.id, judge, null)),
                  onNone: (judge) => act(() => drawLinkBack(collection.name, set.name, task.id, judge)),
                }}
              />
            ))}
          </ol>
        </section>
        <aside aria-label="New task" className="line-l min-h-0 overflow-y-auto px-4 py-3">
          <NewTask collection={collection} set={set} />
        </aside>
      </div>
    </Kept>
  )
}

function TaskLine(props: {
  task: Task
  busy: boolean
  onClose: () => void
  onDrop: () => void
  onAgreement: () => void
  links: { onLink: (judge: string) => void; onNone: (judge: string) => void }
}) {
  const { task } = props
  const [sure, setSure] = useState(false)
  const document = task.document as {
    rankers?: string[]
    depth?: number
    others?: number
    twice?: number
    records?: number
    named?: boolean
  }
  return (
    <li className="line-b px-4 py-3" aria-label={task.name}>
      <TaskHead
        task={task}
        document={document}
        busy={props.busy}
        onClose={props.onClose}
        sure={sure}
        onSure={setSure}
        onDrop={props.onDrop}
      />
      <p className="px-4 text-right">
        <TakeTable what={`who judges ${task.name}`} file={task.name} />
      </p>
      <table className="w-full min-w-[680px] table-fixed">
        <tbody>
          {task.judges.map((one) => (
            <JudgeLine key={one.judge} one={one} link={linkOf(task.id, one.judge)} busy={props.busy} {...props.links} />
          ))}
        </tbody>
      </table>
    </li>
  )
}

function TaskHead({
  task,
  document,
  busy,
  onClose,
  sure,
  onSure,
  onDrop,
}: {
  task: Task
  document: { rankers?: string[]; depth?: number; others?: number; twice?: number; records?: number; named?: boolean }
  busy: boolean
  onClose: () => void
  sure: boolean
  onSure: (to: boolean) => void
  onDrop: () => void
}) {
  return (
    <div className="flex items-baseline gap-3">
      <b className="max-w-[50%] shrink-0 truncate font-semibold" title={task.name}>
        {task.name}
      </b>
      <span className="quiet small min-w-0 flex-1 truncate" title={document.rankers?.join(', ')}>
        {document.records} {document.records === 1 ? 'record' : 'records'}
        {document.named ? ', named one by one' : ''}
        {document.rankers?.length
          ? `${document.named ? ', to decide between' : `: the first ${document.depth} of`} ${document.rankers.join(', ')}`
          : ''}
        {document.others ? ` and ${document.others} at random` : ''}, {Math.round(100 * (document.twice ?? 0))} % judged
        twice
      </span>
      {task.closed && <span className="loss small">closed</span>}
      <Changing>
        <button type="button" className="link small" disabled={busy} onClick={onClose}>
          {task.closed ? 'open again' : 'close'}
        </button>
        {sure ? (
          <button type="button" className="link small loss" autoFocus onBlur={() => onSure(false)} onClick={onDrop}>
            drop it; grades stay
          </button>
        ) : (
          <button type="button" className="link small" onClick={() => onSure(true)}>
            drop
          </button>
        )}
      </Changing>
    </div>
  )
}

type JudgeProps = {
  one: Task['judges'][number]
  link: string | null
  busy: boolean
  onLink: (judge: string) => void
  onNone: (judge: string) => void
}

function JudgeLine({ one, link, busy, onLink, onNone }: JudgeProps) {
  const ended = one.link_ends_at !== null && new Date(one.link_ends_at) < new Date()
  return (
    <tr>
      <td className="truncate py-1 pr-2" title={one.judge}>
        {one.judge}
      </td>
      <td className="w-[150px]">
        <progress
          className="progress w-[130px] text-secondary"
          value={one.judged}
          max={one.items}
          aria-label={`Judged by ${one.judge}`}
        />
      </td>
      <td className="figure w-[110px] pr-4">
        {one.judged} of {one.items}
      </td>
      <td className="w-[310px] whitespace-nowrap">
        {link && (
          <>
            <a className="link font-mono text-[13px]" href={here(link)} target="_blank" rel="noreferrer">
              {link.slice(0, 13)}…
            </a>
            <CopyButton what={`Copy the link for ${one.judge}`} text={() => window.location.origin + here(link)} />
          </>
        )}
        {!link && (
          <>
            <span className="quiet small pr-2">
              {one.person ? 'signs in' : ended ? 'link ended' : one.has_link ? 'link given' : 'no link'}
            </span>
            <Changing>
              <button
                type="button"
                className="link small py-[4px]"
                disabled={busy}
                title="Links are shown once, when they are made. Another one takes the place of the one before."
                aria-label={`Another link for ${one.judge}`}
                onClick={() => onLink(one.judge)}
              >
                {one.has_link ? 'another' : 'make one'}
              </button>
            </Changing>
          </>
        )}
        {one.has_link && (
          <Changing>
            <button
              type="button"
              className="link small px-2 py-[4px]"
              disabled={busy}
              aria-label={`Draw back the link for ${one.judge}`}
              onClick={() => onNone(one.judge)}
            >
              draw back
            </button>
          </Changing>
        )}
      </td>
    </tr>
  )
}

const namesIn = (lines: string) =>
  lines
    .split(/[\n,]/)
    .map((one) => one.trim())
    .filter(Boolean)

function NewTask({ collection, set }: SetProps) {
  const { draft } = useDraft(collection)
  const outside = useQuery(outsideRankers(collection.name))
  const { busy, problem, act } = useDoing('judging', collection.name)
  const there = sidesThere(draft, outside.data ?? [], set.name)
  const held = `task ${collection.name}/${set.name}/`
  const [chosen, setChosen] = useHeld<string[] | null>(`${held}chosen`, null)
  const [judges, setJudges] = useHeld(`${held}judges`, '')
  const [name, setName] = useHeld(`${held}name`, '')
  const [depth, setDepth] = useHeld(`${held}depth`, 10)
  const [others, setOthers] = useHeld(`${held}others`, 1)
  const [twice, setTwice] = useHeld(`${held}twice`, 20)
  const [leftOut, setLeftOut] = useHeld(`${held}leftOut`, true)
  const [tag, setTag] = useHeld(`${held}tag`, '')
  const taken = chosen ?? there.slice(0, 2).map((one) => one.name)
  const names = namesIn(judges)
  const people = useSamePeople(collection.name, set.name, names, problem?.message ?? '')
  return (
    <form
      onSubmit={async (event) => {
        event.preventDefault()
        const sides = there.filter((one) => taken.includes(one.name)).map((one): Side => one.side)
        await act(async () => {
          await makeTask(collection.name, set.name, {
            name: name.trim() || `${set.name}, first ${depth}`,
            judges: names,
            sides,
            depth,
            others,
            twice: twice / 100,
            leave_out_judged: leftOut,
            tag: tag.trim() || null,
            same: people.same,
          })
          setJudges('')
        })
      }}
    >
      <Changing>
        <h2 className="heading quiet pb-2">A new task</h2>
        <WhoAndWhat
          judges={judges}
          onJudges={setJudges}
          name={name}
          onName={setName}
          usual={`${set.name}, first ${depth}`}
        >
          <SamePeople {...people} />
        </WhoAndWhat>
        <FirstOf there={there.map((one) => one.name)} taken={taken} onTake={setChosen} />
        <div className="grid grid-cols-3 gap-3 pb-2">
          <Figure name="first of each" value={depth} least={1} most={1_000} onChange={setDepth} />
          <Figure name="at random" value={others} least={0} most={100} onChange={setOthers} />
          <Figure name="% judged twice" value={twice} least={0} most={100} onChange={setTwice} />
        </div>
        <label className="block pb-2">
          <span className="quiet small block">Queries with this tag only</span>
          <input
            dir="auto"
            aria-label="Tag of the queries"
            className={`${input} w-full`}
            placeholder="all queries"
            value={tag}
            onChange={(event) => setTag(event.target.value)}
          />
        </label>
        <label className="flex items-center gap-2 pb-3">
          <input type="checkbox" checked={leftOut} onChange={(event) => setLeftOut(event.target.checked)} /> leave out
          what is judged
        </label>
        <button type="submit" className="btn btn-sm btn-primary" disabled={busy || names.length === 0}>
          {busy ? 'Making the pool …' : 'Make the task'}
        </button>
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

const input = 'input input-sm border-base-300 bg-transparent'

function WhoAndWhat(props: {
  judges: string
  onJudges: (judges: string) => void
  name: string
  onName: (name: string) => void
  usual: string
  children: ReactNode
}) {
  return (
    <>
      <label className="block pb-2">
        <span className="quiet small block">Who judges: names, a line each</span>
        <textarea
          dir="auto"
          id="judges"
          aria-label="Judges"
          required
          rows={3}
          className="textarea textarea-sm w-full border-base-300 bg-transparent"
          value={props.judges}
          onChange={(event) => props.onJudges(event.target.value)}
        />
      </label>
      <div className="pb-2">{props.children}</div>
      <label className="block pb-2">
        <span className="quiet small block">Name of the task</span>
        <input
          dir="auto"
          aria-label="Name of the task"
          maxLength={200}
          className={`${input} w-full`}
          placeholder={props.usual}
          value={props.name}
          onChange={(event) => props.onName(event.target.value)}
        />
      </label>
    </>
  )
}

function FirstOf(props: { there: string[]; taken: string[]; onTake: (taken: string[]) => void }) {
  return (
    <fieldset className="pb-2">
      <legend className="quiet small">The first records of</legend>
      <div className="max-h-[150px] overflow-y-auto">
        {props.there.map((one) => (
          <label key={one} className="flex items-center gap-2 py-[2px]">
            <input
              type="checkbox"

              checked={props.taken.includes(one)}
              onChange={(event) =>
                props.onTake(
                  event.target.checked ? [...props.taken, one] : props.taken.filter((other) => other !== one),
                )
              }
            />
            {one}
          </label>
        ))}
      </div>
    </fieldset>
  )
}

function Figure(props: {
  name: string
  value: number
  least: number
  most: number
  onChange: (value: number) => void
}) {
  return (
    <label className="block">
      <span className="quiet small block">{props.name}</span>
      <input
        aria-label={props.name}
        type="number"
        min={props.least}
        max={props.most}
        className="input input-sm w-full border-base-300 bg-transparent"
        value={props.value}
        onChange={(event) => props.onChange(Number(event.target.value))}
      />
    </label>
  )
}

// Conflicts: records that judges grade far apart, the widest first, each settled by a person in one click or key.
import { useEffect, useRef, useState, type ReactNode } from 'react'
import { Link } from 'react-router'
import type { Standing } from '../../api/judging'
import { GradeRungs } from '../../parts/grade-rungs'
import { typing, useKeys } from '../../shell/keys'
import { countText } from '../../thinking/figures'
import { judgeName } from '../../thinking/judging'
import { Changing } from '../../shell/changing'

const SHOWN = 100

export type Conflict = Standing['conflicts'][number]

type Asked = {
  textOf: (id: string) => string
  needOf: (id: string) => string
  linkTo: (query: string, record: string) => string
  // What stands below the one that is looked at.
  below: (conflict: Conflict) => ReactNode
}

export function ConflictsList(
  props: { standing: Standing; onSettle: (conflict: Conflict, grade: number | null, note: string) => void } & Asked,
) {
  const { standing } = props
  const [at, setAt] = useState(0)
  // Each as it was before it was settled here, so that it can be taken back.
  const [done, setDone] = useState<Conflict[]>([])
  const settleAnew = props.onSettle
  const onSettle = (conflict: Conflict, grade: number | null, note: string) => {
    setDone((old) => [...old, conflict])
    settleAnew(conflict, grade, note)
  }
  const shown = standing.conflicts.slice(0, SHOWN)
  const here = shown[Math.min(at, shown.length - 1)]
  useKeys((event: KeyboardEvent) => {
    if (typing(event) || event.ctrlKey || event.metaKey) return
    const step = { j: 1, k: -1 }[event.key]
    if (step && !event.altKey) setAt((old) => Math.max(0, Math.min(shown.length - 1, old + step)))
    const last = done.at(-1)
    if (event.key === 'u' && !event.altKey && last) {
      setDone(done.slice(0, -1))
      settleAnew(last, last.settled_by_hand ? last.counts : null, last.note)
    }
    // By the key's place: with Alt some keyboards write other signs.
    const digit = /^Digit([0-3])$/.exec(event.code)?.[1]
    if (event.altKey && digit !== undefined && here) {
      event.preventDefault()
      onSettle(here, Number(digit), here.note)
    }
  })
  return (
    <>
      <ul className="long-list">
        {shown.map((one, i) => (
          <ConflictLine
            key={`${one.query_id} ${one.record_key}`}
            conflict={one}
            title={standing.titles[one.record_key] ?? ''}
            here={one === here}
            onChoose={() => setAt(i)}
            onSettle={onSettle}
            textOf={props.textOf}
            needOf={props.needOf}
            linkTo={props.linkTo}
            below={props.below}
          />
        ))}
      </ul>
      {standing.conflicts_in_all > SHOWN && (
        <p className="quiet small px-4 py-2">
          and {countText(standing.conflicts_in_all - SHOWN)} more; the widest come first
        </p>
      )}
    </>
  )
}

function ConflictLine(
  props: {
    conflict: Conflict
    title: string
    here: boolean
    onChoose: () => void
    onSettle: (conflict: Conflict, grade: number | null, note: string) => void
  } & Asked,
) {
  const { conflict, title, here, onSettle } = props
  const text = props.textOf(conflict.query_id)
  const settled = conflict.settled_by_hand
  const line = useRef<HTMLLIElement>(null)
  useEffect(() => {
    if (here) line.current?.scrollIntoView({ block: 'nearest' })
  }, [here])
  return (
    <li
      className={`line-b border-l-[3px] py-2 pr-4 pl-[13px] ${here ? 'border-l-primary bg-base-200' : 'border-l-transparent'}`}
      aria-label={`${text}: ${conflict.record_key}`}
      aria-current={here ? 'true' : undefined}
      ref={line}
      onClick={props.onChoose}
    >
      <ConflictHead
        linkTo={props.linkTo}
        conflict={conflict}
        text={text}
        title={title}
        settled={settled}
        here={here}
        onSettle={onSettle}
      />
      <p className="small line-clamp-3 wrap-anywhere">
        {conflict.given.map((own, i) => (
          <span key={own.judge}>
            {i > 0 && ', '}
            {judgeName(own.judge)} <b className="font-semibold">{own.grade ?? 'passed'}</b>
            {own.note && <span className="quiet"> “{own.note}”</span>}
          </span>
        ))}
      </p>
      {here && (
        <p className="quiet small line-clamp-3 wrap-anywhere">
          Wanted: {props.needOf(conflict.query_id) || 'nobody wrote it down'}
        </p>
      )}
      {here && props.below(conflict)}
      {settled && (here || conflict.note !== '') && (
        <input
          dir="auto"
          aria-label="Why it was settled so"
          key={conflict.note}
          defaultValue={conflict.note}
          placeholder="why it was settled so"
          maxLength={10_000}
          className="input input-xs mt-1 w-full border-base-300 bg-transparent"
          onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
          onBlur={(event) =>
            event.target.value !== conflict.note && onSettle(conflict, conflict.counts, event.target.value)
          }
        />
      )}
    </li>
  )
}

function ConflictHead({
  linkTo,
  conflict,
  text,
  title,
  settled,
  here,
  onSettle,
}: {
  linkTo: (query: string, record: string) => string
  conflict: Conflict
  text: string
  title: string
  settled: boolean
  here: boolean
  onSettle: (conflict: Conflict, grade: number | null, note: string) => void
}) {
  return (
    <div className="flex flex-wrap items-baseline gap-x-3">
      <Link
        className="flex min-h-6 min-w-0 flex-[1_1_260px] items-baseline gap-1"
        to={linkTo(conflict.query_id, conflict.record_key)}
        title={`${text}: ${title || conflict.record_key}; opens in Ranking`}
      >
        <b className="max-w-[60%] shrink-0 truncate font-semibold">{text}</b>
        <span className="quiet">and</span>
        <span className="min-w-0 truncate">{title || 'a record that is gone'}</span>
        <span className="quiet shrink-0 font-mono text-[13px]">{conflict.record_key}</span>
      </Link>
      <span className="small quiet">{settled ? 'settled:' : 'counts now:'}</span>
      <span className="self-center">
        <GradeRungs grade={conflict.counts ?? undefined} />
      </span>
      <span className="flex gap-1">
        <Changing>
          {[0, 1, 2, 3].map((grade) => (
            <button
              key={grade}
              type="button"
              aria-pressed={settled && conflict.counts === grade}
              aria-label={`Settle as ${grade}`}
              title={here ? `Alt ${grade}` : undefined}
              className={`btn btn-xs ${settled && conflict.counts === grade ? 'btn-neutral' : 'border-base-300'}`}
              onClick={() => onSettle(conflict, grade, conflict.note)}
            >
              {grade}
            </button>
          ))}
          <button
            type="button"
            className={`btn btn-xs btn-ghost ${settled ? '' : 'invisible'}`}
            disabled={!settled}
            title="Leave it to the rule again"
            onClick={() => onSettle(conflict, null, '')}
          >
            undo
          </button>
        </Changing>
      </span>
    </div>
  )
}

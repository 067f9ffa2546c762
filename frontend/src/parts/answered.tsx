// What the server answered, or that it has not yet: the one way in which the page shows what it asked for. What is kept
// while its successor is fetched is dimmed and named; where there is none, that is said too.
import type { UseQueryResult } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import { useLasting } from './use-lasting'
import { firstError, freshness, isOutdated } from '../thinking/freshness'
import { ProblemNote } from './notes'

const A_MOMENT_MS = 400
const LONG_MS = 8_000

type Asked = readonly UseQueryResult<unknown>[]

// What is made of answers: dimmed as long as one of them is not what was asked for.
// what: as in "Renewing the list …"; of: whose the shown is meanwhile, where that is known.
export function Kept(props: {
  asked: Asked
  what: string
  of?: string | undefined
  className?: string
  children: ReactNode
}) {
  const { asked, what, of, className = '' } = props
  const state = freshness(...asked)
  const lasts = useLasting(state === 'renewing', A_MOMENT_MS)
  const error = firstError(...asked)
  if (state === 'refused' && error) return <ProblemNote error={error} />
  // A note in the rows of a grid would take a cell.
  const isBlock = !/\b(grid|flex)\b/.test(className)
  return (
    <div
      className={`kept relative ${className}`}
      aria-busy={state !== 'current'}
      data-outdated={isOutdated(...asked) || lasts ? '' : undefined}
    >
      {(lasts || state === 'silent') && (
        <div className={`kept-note z-30 ${isBlock ? 'sticky top-0 h-0' : 'absolute inset-x-0 top-0'}`}>
          <p
            role="status"
            className="small absolute top-1 right-2 flex max-w-[90%] items-center gap-2 border border-base-300 bg-base-100 px-2 py-1 shadow-sm"
          >
            {state === 'silent' ? (
              <Silence asked={asked} says={`No answer from the server: this is ${of ?? 'of before'}.`} />
            ) : (
              <>
                <span aria-hidden className="loading loading-spinner loading-xs" />
                <span>
                  Renewing {what}
                  {of && `; this is ${of}`} …
                </span>
              </>
            )}
          </p>
        </div>
      )}
      {props.children}
    </div>
  )
}

// Instead of what is not here yet. Nothing at all for a moment: most answers are here by then.
export function Unanswered({ asked, what }: { asked: Asked; what: string }) {
  const state = freshness(...asked)
  const isAwaited = state !== 'silent' && state !== 'refused'
  const lasts = useLasting(isAwaited, 150)
  const isLate = useLasting(isAwaited, LONG_MS)
  const error = firstError(...asked)
  if (state === 'refused' && error) return <ProblemNote error={error} />
  return (
    <p role="status" className="quiet flex flex-wrap items-center gap-2 p-6">
      {!isAwaited ? (
        <Silence asked={asked} says={error?.message ?? ''} />
      ) : (
        lasts && (
          <>
            <span aria-hidden className="loading loading-spinner loading-xs" />
            {isLate ? `Still fetching ${what}: the server has not answered yet.` : `Fetching ${what} …`}
          </>
        )
      )}
    </p>
  )
}

// That the server does not answer; once nobody tries any more, a way to.
function Silence({ asked, says }: { asked: Asked; says: string }) {
  return (
    <>
      <span className="loss wrap-anywhere">{says}</span>
      {asked.every((one) => !one.isFetching) && (
        <button
          type="button"
          className="link whitespace-nowrap"
          onClick={() => asked.forEach((one) => void one.refetch())}
        >
          try again
        </button>
      )}
    </>
  )
}

// Empty, loading and error states: each says what to do next.
import type { ReactNode } from 'react'
import { ProblemError } from '../api/client'

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="quiet p-6">
      Fetching {what} …
    </p>
  )
}

export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="max-w-[60ch] p-6">
      <h2 className="pb-1 text-lg font-semibold">{title}</h2>
      <div className="quiet">{children}</div>
    </div>
  )
}

export function ProblemNote({ error }: { error: Error }) {
  const problem = error instanceof ProblemError ? error.problem : null
  return (
    <div role="alert" className="m-4 max-w-[70ch] border-l-[3px] border-error py-2 pl-4">
      <p className="font-semibold">{problem?.title ?? 'Something went wrong on this page'}</p>
      <p className="wrap-anywhere whitespace-pre-line">{error.message}</p>
      {(problem?.problems?.length ?? 0) > 0 && (
        <ul className="pt-1">
          {problem?.problems?.map((one) => (
            <li key={one.where + one.what}>
              <code className="text-[13px]">{one.where}</code> {one.what}
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}

// Whether what stands on the screen is what was asked for.
import { ProblemError } from '../api/client'

// What a request is known by here; TanStack Query's results are such.
export type Standing = {
  data?: unknown
  isPlaceholderData: boolean
  isFetching: boolean
  isError: boolean
  failureCount: number
  failureReason: Error | null
  error: Error | null
}

// The first that fits wins.
//   refused    the server said no: there is nothing to show
//   silent     it does not answer, or did not; it is tried again, by itself or by hand
//   renewing   it is being asked
//   current    what is shown is what was asked for
export type Freshness = 'refused' | 'silent' | 'renewing' | 'current'

const isSilence = (error: Error | null) => error instanceof ProblemError && error.problem.status === 0

export function freshness(...all: Standing[]): Freshness {
  if (all.some((one) => one.isError && !isSilence(one.error))) return 'refused'
  if (all.some((one) => one.isError || (one.isFetching && one.failureCount > 0))) return 'silent'
  if (all.some((one) => one.isFetching || one.isPlaceholderData)) return 'renewing'
  return 'current'
}

// Whether what is kept is known to be of something else: of another draft, or of before the server fell silent.
export const isOutdated = (...all: Standing[]) =>
  all.some((one) => one.isPlaceholderData) || freshness(...all) === 'silent'

export function firstError(...all: Standing[]): Error | null {
  for (const one of all) {
    const error = one.error ?? (one.isFetching ? one.failureReason : null)
    if (error) return error
  }
  return null
}

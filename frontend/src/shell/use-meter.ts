// What the draft did to every judged query, beside the baseline.
import { useQuery } from '@tanstack/react-query'
import { useDeferredValue } from 'react'
import { measured, type Collection, type Measurement } from '../api/queries'
import { waterline, type Waterline } from '../thinking/movement'
import { parsedHow } from '../thinking/how'
import { useAddress } from './address'
import { useDraft, useSetName } from './use-draft'

export const MAIN_MEASURE = 'ndcg@10'
export const MEASURED = [MAIN_MEASURE]

export type Meter = {
  set: string
  baseline: Measurement
  draft: Measurement
  line: Waterline
  // What the draft's mean gained, by the rules in force.
  gain: number
}

// measures: those that are shown; the main one is among them.
export function useMeter(
  collection: Collection,
  measures: string[] = MEASURED,
): { meter: Meter | null; error: Error | null } {
  const { draft } = useDraft(collection)
  const set = useSetName(collection)
  const how = parsedHow(useAddress().params.get('rules'))
  const ready = draft !== null && set !== null
  const deferred = useDeferredValue(draft?.choice ?? {})
  const ofBaseline = useQuery({
    ...measured(collection.name, set ?? '', draft?.baselineChoice ?? {}, measures, how),
    enabled: ready,
  })
  const ofDraft = useQuery({ ...measured(collection.name, set ?? '', deferred, measures, how), enabled: ready })
  if (set === null || !ofBaseline.data || !ofDraft.data) {
    return { meter: null, error: ofBaseline.error ?? ofDraft.error }
  }
  const valuesOf = (answer: Measurement) =>
    Object.fromEntries(
      Object.entries(answer.figures.measured.per_query).map(([id, values]) => [id, values[MAIN_MEASURE] ?? 0]),
    )
  return {
    meter: {
      set,
      baseline: ofBaseline.data,
      draft: ofDraft.data,
      line: waterline(valuesOf(ofDraft.data), valuesOf(ofBaseline.data)),
      gain:
        (ofDraft.data.figures.measured.means[MAIN_MEASURE] ?? 0) -
        (ofBaseline.data.figures.measured.means[MAIN_MEASURE] ?? 0),
    },
    error: null,
  }
}

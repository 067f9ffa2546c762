// What the draft did to every judged query, beside the baseline.
import { useQuery, type UseQueryResult } from '@tanstack/react-query'
import { measured, type Collection, type Measurement } from '../api/queries'
import { waterline, type Waterline } from '../thinking/movement'
import { between } from '../thinking/figures'
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
  // What the draft's mean gained, by the rules in force; of no judged query there is no mean.
  gain: number | undefined
}

// measures: those that are shown; the main one is among them.
export function useMeter(
  collection: Collection,
  measures: string[] = MEASURED,
): { meter: Meter | null; asked: UseQueryResult<Measurement>[] } {
  const { draft } = useDraft(collection)
  const set = useSetName(collection)
  const how = parsedHow(useAddress().params.get('rules'))
  const ready = draft !== null && set !== null
  const ofBaseline = useQuery({
    ...measured(collection, set ?? '', draft?.baselineChoice ?? {}, measures, how),
    enabled: ready,
  })
  const ofDraft = useQuery({ ...measured(collection, set ?? '', draft?.choice ?? {}, measures, how), enabled: ready })
  const asked = [ofBaseline, ofDraft]
  if (set === null || !ofBaseline.data || !ofDraft.data) return { meter: null, asked }
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
      gain: between(
        ofBaseline.data.figures.measured.means[MAIN_MEASURE],
        ofDraft.data.figures.measured.means[MAIN_MEASURE],
      ),
    },
    asked,
  }
}

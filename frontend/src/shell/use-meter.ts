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
// Those that the meter can show.
export const METER_MEASURES = [MAIN_MEASURE, 'ap', 'rr', 'precision@10', 'recall@100', 'success@10', 'letters_saved@10']

// That the engineer looks at, as the address says.
export function useMainMeasure(): string {
  const by = useAddress().params.get('by')
  return by !== null && METER_MEASURES.includes(by) ? by : MAIN_MEASURE
}

export type Meter = {
  set: string
  measure: string
  baseline: Measurement
  draft: Measurement
  line: Waterline
  // What the draft's mean gained, by the rules in force; of no judged query there is no mean.
  gain: number | undefined
}

// more: what is shown beside the main measure.
export function useMeter(
  collection: Collection,
  more: string[] = [],
): { meter: Meter | null; asked: UseQueryResult<Measurement>[] } {
  const { draft } = useDraft(collection)
  const measure = useMainMeasure()
  const measures = more.includes(measure) ? more : [measure, ...more]
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
      Object.entries(answer.figures.measured.per_query).map(([id, values]) => [id, values[measure] ?? 0]),
    )
  return {
    meter: {
      set,
      measure,
      baseline: ofBaseline.data,
      draft: ofDraft.data,
      line: waterline(valuesOf(ofDraft.data), valuesOf(ofBaseline.data)),
      gain: between(ofBaseline.data.figures.measured.means[measure], ofDraft.data.figures.measured.means[measure]),
    },
    asked,
  }
}

// What is told of a ranker as it stands: the draft, or the version that it is, by the meter's measure and the rules.
import type { Collection } from '../../api/queries'
import { useAddress } from '../../shell/address'
import { useDraft } from '../../shell/use-draft'
import { useMainMeasure } from '../../shell/use-meter'
import { draftParam } from '../../thinking/draft'
import { MEASURE_NAMES } from '../../thinking/figures'
import { parsedHow } from '../../thinking/how'

export function usePlan(collection: Collection) {
  const { draft, error } = useDraft(collection)
  const { params, change } = useAddress()
  const measure = useMainMeasure()
  if (error) return { error, plan: null }
  if (draft === null) return { error: null, plan: null }
  const { name, version } = draft.baseline
  const plan = {
    ranker: name,
    version,
    document: draft.isBaseline ? null : draft.document,
    measure,
    ...parsedHow(params.get('rules')),
  }
  return {
    error: null,
    plan,
    name: draft.isBaseline ? `${name} ${version}` : `the draft of ${name} ${version}`,
    by: MEASURE_NAMES[measure] ?? measure,
    makeDraft: (document: unknown) =>
      change(
        {
          ranker: `${name}:${version}`,
          d: draftParam(draft.baseline.filled_in, document as typeof draft.document),
        },
        false,
      ),
  }
}

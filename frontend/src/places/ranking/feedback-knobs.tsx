// Words of the first records that are looked for too.
import type { Draft } from '../../shell/use-draft'
import type { Undo } from '../../shell/use-undo'
import { FEEDBACK, type Feedback } from '../../thinking/ranker-parts'
import { Choice, Switch } from './controls'
import { PartKnobs } from './part-knobs'

export function feedbackSays(draft: Draft): { says: string; moved: boolean } {
  const feedback = draft.document.feedback ?? null
  return {
    says: feedback ? `first ${feedback.records}, share ${feedback.share}` : 'off',
    moved: JSON.stringify(feedback) !== JSON.stringify(draft.baseline.filled_in.feedback ?? null),
  }
}

export function FeedbackKnobs({ draft, undo }: { draft: Draft; undo: Undo }) {
  const { document } = draft
  const feedback = document.feedback ?? null
  const was = draft.baseline.filled_in.feedback ?? undefined
  const put = (changes: Partial<Feedback>) => ({ ...document, feedback: { ...FEEDBACK, ...feedback, ...changes } })
  const fields = [...new Set(document.readings.map((reading) => reading.field))]
  return (
    <>
      <Switch
        name="Words of the first count too"
        on={feedback !== null}
        onTurn={(on) => undo.commit({ ...document, feedback: on ? (was ?? FEEDBACK) : null })}
      />
      {feedback && (
        <>
          <Choice
            name="Words of"
            value={feedback.field ?? ''}
            choices={[['', 'every reading'], ...fields.map((field) => [field, field] as const)]}
            moved={was !== undefined && (was.field ?? null) !== (feedback.field ?? null)}
            onChoose={(field) => undo.commit(put({ field: field === '' ? null : field }))}
          />
          <PartKnobs part="Feedback" of="" value={feedback} was={was} put={put} undo={undo} />
        </>
      )}
    </>
  )
}

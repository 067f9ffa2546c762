// The first records put in a new order, word by word.
import { useQuery } from '@tanstack/react-query'
import type { Collection } from '../../api/queries'
import { spaces } from '../../api/spaces'
import { SECOND_STAGE } from '../../thinking/ranker-parts'
import type { Draft } from '../../shell/use-draft'
import { Choice, NumberKnob } from './controls'
import { PartKnobs } from './part-knobs'
import type { Undo } from '../../shell/use-undo'

export function SecondStageKnobs({ collection, draft, undo }: { collection: Collection; draft: Draft; undo: Undo }) {
  const known = useQuery(spaces(collection.name))
  const { document } = draft
  const stage = document.second_stage ?? null
  const was = draft.baseline.filled_in.second_stage ?? null
  const able = (known.data ?? []).filter((space) => space.word_vectors || space.name === stage?.space)
  if (able.length === 0) return null
  const put = (changes: Partial<NonNullable<typeof stage>>) => ({
    ...document,
    second_stage: stage && { ...stage, ...changes },
  })
  return (
    <div className="line-t mt-2 pt-1">
      <Choice
        name="Second stage, word by word"
        value={stage?.space ?? ''}
        moved={stage?.space !== was?.space}
        choices={[['', 'off'], ...able.map((space) => [space.name, space.name] as const)]}
        onChoose={(space) =>
          undo.commit({ ...document, second_stage: space === '' ? null : { ...SECOND_STAGE, ...stage, space } })
        }
      />
      {stage && (
        <>
          <NumberKnob
            name="Weight of the second stage"
            label={<span className="quiet small">order so far ↔ word by word</span>}
            value={stage.weight ?? 0.5}
            was={was?.weight}
            least={0}
            most={1}
            step={0.01}
            put={(weight) => put({ weight })}
            undo={undo}
          />
          <PartKnobs
            part="SecondStage"
            of="the second stage"
            value={stage}
            was={was ?? undefined}
            put={put}
            undo={undo}
            own={['weight']}
          />
        </>
      )}
    </div>
  )
}

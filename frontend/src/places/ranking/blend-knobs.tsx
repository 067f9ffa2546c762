// How the words' list and those of the spaces become one.
import type { Draft } from '../../shell/use-draft'
import type { Blend } from '../../thinking/ranker-parts'
import { choicesOf } from '../../thinking/knobs'
import { ChoiceBars } from './choice-bars'
import { Choice, NumberKnob } from './controls'
import { FormulaKnob } from './formula-knob'
import { PartKnobs } from './part-knobs'
import type { Undo } from '../../shell/use-undo'

const HOWS = choicesOf('Blend', 'how') as readonly (readonly [NonNullable<Blend['how']>, string])[]

export function BlendKnobs(props: {
  name: string
  // Of the blend in the ranker document.
  where: string
  draft: Draft
  undo: Undo
  blend: Blend
  was: Blend
  onBlend: (blend: Blend) => Draft['document']
}) {
  const { name, undo, blend, was, onBlend } = props
  const put = (changes: Partial<Blend>) => onBlend({ ...blend, ...changes })
  const how = blend.how ?? 'reciprocal_rank'
  const byShare = how === 'reciprocal_rank' || how === 'weighted_sum'
  return (
    <div className="pt-1">
      <Choice
        name={name}
        value={how}
        choices={HOWS}
        moved={how !== was.how}
        onChoose={(next) =>
          undo.commit(
            put({
              how: next,
              formula: next === 'formula' ? (blend.formula ?? firstFormula(props.draft)) : (blend.formula ?? null),
            }),
          )
        }
      />
      <ChoiceBars
        name={name}
        value={how}
        choices={HOWS.filter(([next]) => next !== 'formula' || blend.formula)}
        put={(next) => put({ how: next })}
        onChoose={(next) => undo.commit(put({ how: next }))}
      />
      {byShare && (
        <NumberKnob
          name={`${name}, from words to meaning`}
          label={<span className="quiet small">words ↔ meaning</span>}
          value={blend.meaning ?? 0.5}
          was={was.meaning}
          least={0}
          most={1}
          step={0.01}
          put={(meaning) => put({ meaning })}
          undo={undo}
        />
      )}
      {how === 'formula' && (
        <FormulaKnob
          draft={props.draft}
          value={blend.formula ?? ''}
          where={`${props.where}.formula`}
          onFormula={(formula) => undo.commit(put({ formula }))}
        />
      )}
      <PartKnobs
        part="Blend"
        of={name}
        value={{ ...blend, how }}
        was={was}
        put={put}
        undo={undo}
        own={['how', 'meaning']}
      />
    </div>
  )
}

const firstFormula = (draft: Draft) => `words + 10 * space.${draft.document.spaces?.[0]?.space ?? ''}`

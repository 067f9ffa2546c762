// How the words' list and those of the spaces become one.
import type { Draft } from '../../shell/use-draft'
import type { Blend } from '../../thinking/ranker-parts'
import { Choice, NumberKnob } from './controls'
import { FormulaKnob } from './formula-knob'
import { Small } from './small-knob'
import type { Undo } from './use-undo'

export const HOWS = [
  ['reciprocal_rank', 'ranks, fused'],
  ['weighted_sum', 'scores, added'],
  ['fill_up', 'words, then meaning'],
  ['reorder', 'words, reordered'],
  ['formula', 'by a formula'],
] as const

const NORMALISE = [
  ['min_max', 'min-max'],
  ['z_score', 'z-score'],
  ['rank', 'rank'],
  ['none', 'nothing'],
] as const

export function BlendKnobs(props: {
  name: string
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
      {byShare && (
        <NumberKnob
          name={`${name}, from words to meaning`}
          label={<span className="quiet small">words ↔ meaning</span>}
          value={blend.meaning ?? 0.5}
          was={was.meaning}
          least={0}
          most={1}
          step={0.01}
          onPreview={(meaning) => undo.preview(put({ meaning }))}
          onCommit={(meaning) => undo.commit(put({ meaning }))}
          onSettle={undo.settle}
        />
      )}
      {how === 'reciprocal_rank' && (
        <Small
          name={`k of ${name}`}
          label="k: how little first ranks stand out"
          value={blend.k ?? 60}
          was={was.k}
          least={0}
          most={100_000}
          onValue={(k) => undo.commit(put({ k }))}
        />
      )}
      {how === 'weighted_sum' && (
        <Choice
          name={`Scores of ${name} compared by`}
          label="compared by"
          value={blend.normalise ?? 'min_max'}
          choices={NORMALISE}
          moved={blend.normalise !== was.normalise}
          onChoose={(normalise) => undo.commit(put({ normalise }))}
        />
      )}
      {how === 'reorder' && (
        <Small
          name={`Depth of ${name}`}
          label="first records"
          value={blend.depth ?? 50}
          was={was.depth}
          least={1}
          most={10_000}
          onValue={(depth) => undo.commit(put({ depth: Math.round(depth) }))}
        />
      )}
      {how === 'formula' && (
        <FormulaKnob
          draft={props.draft}
          value={blend.formula ?? ''}
          onFormula={(formula) => undo.commit(put({ formula }))}
        />
      )}
      <Small
        name={`Records by words of ${name}`}
        label="records by words"
        value={blend.fetch ?? 1000}
        was={was.fetch}
        least={1}
        most={100_000}
        onValue={(fetch) => undo.commit(put({ fetch: Math.round(fetch) }))}
      />
    </div>
  )
}

const firstFormula = (draft: Draft) => `words + 10 * space.${draft.document.spaces?.[0]?.space ?? ''}`

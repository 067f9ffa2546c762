// Meaning: which spaces are asked, how their lists and the words' become one, and for which kind of query.
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import type { Collection } from '../../api/queries'
import { spaces } from '../../api/spaces'
import { spaceShade } from '../../parts/source-bar'
import { carried, useAddress } from '../../shell/address'
import type { Draft } from '../../shell/use-draft'
import { weightText } from '../../thinking/figures'
import { BLEND, newSpaceUse, replaced, without, type Blend, type SpaceUse } from '../../thinking/ranker-parts'
import { Choice, NumberBox, NumberKnob } from './controls'
import { FormulaKnob } from './formula-knob'
import { KindKnobs } from './kind-knobs'
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

const differs = (a: unknown, b: unknown) => JSON.stringify(a) !== JSON.stringify(b)

export function meaningSays(draft: Draft): { says: string; moved: boolean } {
  const { spaces: used, blend, second_stage, kinds } = draft.document
  const was = draft.baseline.filled_in
  const how = HOWS.find(([name]) => name === (blend?.how ?? 'reciprocal_rank'))?.[1] ?? ''
  return {
    says: used?.length ? how : 'words alone',
    moved: differs([used, blend, second_stage, kinds], [was.spaces, was.blend, was.second_stage, was.kinds]),
  }
}

export function MeaningKnobs({ collection, draft, undo }: { collection: Collection; draft: Draft; undo: Undo }) {
  const { params } = useAddress()
  const known = useQuery(spaces(collection.name))
  const { document } = draft
  const used = document.spaces ?? []
  const old = draft.baseline.filled_in.spaces ?? []
  const blend = { ...BLEND, ...document.blend }
  const free = (known.data ?? []).filter((space) => !used.some((one) => one.space === space.name))
  const put = (i: number, changes: Partial<SpaceUse>) => ({ ...document, spaces: replaced(used, i, changes) })
  return (
    <>
      {used.map((use, i) => {
        const space = known.data?.find((one) => one.name === use.space)
        const was = old.find((one) => one.space === use.space)
        return (
          <div key={use.space} className="pb-2">
            <NumberKnob
              name={`Weight of space ${use.space}`}
              label={
                <span className="flex items-center gap-2 font-semibold">
                  <span aria-hidden className="h-[11px] w-[11px] shrink-0" style={{ background: spaceShade(i) }} />
                  {use.space}
                </span>
              }
              value={use.weight ?? 1}
              was={was?.weight}
              least={0.01}
              most={1000}
              reach={Math.max(5, 2 * (was?.weight ?? 1))}
              step={0.01}
              onPreview={(weight) => undo.preview(put(i, { weight }))}
              onCommit={(weight) => undo.commit(put(i, { weight }))}
              onSettle={undo.settle}
            />
            <div className="small border-l-2 border-base-300 pl-3">
              {space && !space.model && <p className="loss">It has no vectors yet.</p>}
              <Small
                name={`Records from ${use.space}`}
                label="records at most"
                value={use.fetch ?? 100}
                was={was?.fetch}
                least={1}
                most={10_000}
                onValue={(fetch) => undo.commit(put(i, { fetch: Math.round(fetch) }))}
              />
              <Small
                name={`Least similarity in ${use.space}`}
                label="at least so alike"
                value={use.at_least ?? 0}
                was={was ? (was.at_least ?? 0) : undefined}
                least={-1_000}
                most={1_000}
                onValue={(at_least) => undo.commit(put(i, { at_least: at_least === 0 ? null : at_least }))}
              />
              <button
                type="button"
                className="link"
                onClick={() => undo.commit({ ...document, spaces: without(used, i) })}
              >
                take out
              </button>
            </div>
          </div>
        )
      })}
      {free.length > 0 && (
        <Choice
          name="Add a space"
          value=""
          choices={[['', 'choose'], ...free.map((space) => [space.name, space.name] as const)]}
          onChoose={(space) => space !== '' && undo.commit({ ...document, spaces: [...used, newSpaceUse(space)] })}
        />
      )}
      {known.data?.length === 0 && (
        <p className="small quiet">
          There is no space of vectors yet.{' '}
          <Link className="link" to={`/${collection.name}/spaces${carried(params, { new: 'yes' })}`}>
            Make one
          </Link>
          .
        </p>
      )}
      {used.length > 0 && (
        <>
          <BlendKnobs
            name="Blend"
            draft={draft}
            undo={undo}
            blend={blend}
            was={{ ...BLEND, ...draft.baseline.filled_in.blend }}
            onBlend={(next) => ({ ...document, blend: next })}
          />
          <SecondStageKnobs collection={collection} draft={draft} undo={undo} />
          <KindKnobs draft={draft} undo={undo} />
        </>
      )}
    </>
  )
}

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

function SecondStageKnobs({ collection, draft, undo }: { collection: Collection; draft: Draft; undo: Undo }) {
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
          undo.commit({ ...document, second_stage: space === '' ? null : { first: 20, weight: 0.5, ...stage, space } })
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
            onPreview={(weight) => undo.preview(put({ weight }))}
            onCommit={(weight) => undo.commit(put({ weight }))}
            onSettle={undo.settle}
          />
          <Small
            name="Records of the second stage"
            label="first records"
            value={stage.first ?? 20}
            was={was?.first}
            least={1}
            most={200}
            onValue={(first) => undo.commit(put({ first: Math.round(first) }))}
          />
        </>
      )}
    </div>
  )
}

export function Small(props: {
  name: string
  label: string
  value: number
  was: number | undefined
  least: number
  most: number
  onValue: (value: number) => void
}) {
  const moved = props.was !== undefined && props.was !== props.value
  return (
    <div className="small flex items-center justify-between gap-2 py-[2px]">
      <span className="min-w-0 flex-1">{props.label}</span>
      {moved && <span className="quiet">was {weightText(props.was ?? 0)}</span>}
      <NumberBox
        name={props.name}
        value={props.value}
        moved={moved}
        least={props.least}
        most={props.most}
        onValue={props.onValue}
      />
    </div>
  )
}

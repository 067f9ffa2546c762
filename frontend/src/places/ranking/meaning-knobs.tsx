// Meaning: which spaces are asked, how their lists and the words' become one, and for which kind of query.
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import type { Collection, RankerDocument } from '../../api/queries'
import { type Space, spaces } from '../../api/spaces'
import { spaceShade } from '../../parts/source-bar'
import { carried, useAddress } from '../../shell/address'
import type { Draft } from '../../shell/use-draft'
import { BLEND, newSpaceUse, replaced, without, type SpaceUse } from '../../thinking/ranker-parts'
import { choicesOf } from '../../thinking/knobs'
import { BlendKnobs } from './blend-knobs'
import { Choice, NumberKnob } from './controls'
import { KindKnobs } from './kind-knobs'
import { SecondStageKnobs } from './second-stage-knobs'
import { PartKnobs } from './part-knobs'
import type { Undo } from '../../shell/use-undo'

const differs = (a: unknown, b: unknown) => JSON.stringify(a) !== JSON.stringify(b)

export function meaningSays(draft: Draft): { says: string; moved: boolean } {
  const { spaces: used, blend, second_stage, kinds } = draft.document
  const was = draft.baseline.filled_in
  const how = choicesOf('Blend', 'how').find(([name]) => name === (blend?.how ?? 'reciprocal_rank'))?.[1] ?? ''
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
          <SpaceKnobs
            key={use.space}
            use={use}
            i={i}
            was={was}
            undo={undo}
            put={put}
            space={space}
            document={document}
            used={used}
          />
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
            where="blend"
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

function SpaceKnobs({
  use,
  i,
  was,
  undo,
  put,
  space,
  document,
  used,
}: {
  use: SpaceUse
  i: number
  was: undefined | SpaceUse
  undo: Undo
  put: (i: number, changes: Partial<SpaceUse>) => RankerDocument
  space: undefined | Space
  document: RankerDocument
  used: SpaceUse[]
}) {
  return (
    <div className="pb-2">
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
        put={(weight) => put(i, { weight })}
        undo={undo}
      />
      <div className="small border-l-2 border-base-300 pl-3">
        {space && !space.model && <p className="loss">It has no vectors yet.</p>}
        <PartKnobs
          part="SpaceUse"
          of={use.space}
          value={use}
          was={was}
          put={(changes) => put(i, changes)}
          undo={undo}
          own={['weight']}
        />
        <button type="button" className="link" onClick={() => undo.commit({ ...document, spaces: without(used, i) })}>
          take out
        </button>
      </div>
    </div>
  )
}

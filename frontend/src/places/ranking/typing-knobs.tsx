// How the last word is taken for a beginning while it is being typed.
import { Link } from 'react-router'
import type { Collection } from '../../api/queries'
import { carried, useAddress } from '../../shell/address'
import type { Draft } from '../../shell/use-draft'
import type { Undo } from '../../shell/use-undo'
import { TYPING, type Typing } from '../../thinking/ranker-parts'
import { Switch } from './controls'
import { PartKnobs } from './part-knobs'

export function typingSays(draft: Draft): { says: string; moved: boolean } {
  const typing = draft.document.typing ?? null
  return {
    says: typing ? `from ${typing.letters} ${typing.letters === 1 ? 'letter' : 'letters'}` : 'whole words only',
    moved: JSON.stringify(typing) !== JSON.stringify(draft.baseline.filled_in.typing ?? null),
  }
}

export function TypingKnobs({ collection, draft, undo }: { collection: Collection; draft: Draft; undo: Undo }) {
  const { params } = useAddress()
  const { document } = draft
  const typing = document.typing ?? null
  const was = draft.baseline.filled_in.typing ?? undefined
  const put = (changes: Partial<Typing>) => ({ ...document, typing: { ...TYPING, ...typing, ...changes } })
  return (
    <>
      <Switch
        name="The last word may be a beginning"
        on={typing !== null}
        onTurn={(on) => undo.commit({ ...document, typing: on ? (was ?? TYPING) : null })}
      />
      {typing?.when === 'typed' && (
        <p className="quiet small pb-1">
          Judged queries are whole: what these do to them is told letter by letter, in{' '}
          <Link className="link" to={`/${collection.name}/measures${carried(params, { view: 'letters' })}`}>
            Letters
          </Link>
          .
        </p>
      )}
      {typing && <PartKnobs part="Typing" of="" value={typing} was={was} put={put} undo={undo} />}
    </>
  )
}

// Kinds of queries with a blend of their own: codes by words alone, say, and questions by meaning.
import { useState } from 'react'
import type { Draft } from '../../shell/use-draft'
import { BLEND, kindText, parsedKind, replaced, without } from '../../thinking/ranker-parts'
import { TextKnob } from './controls'
import { BlendKnobs } from './blend-knobs'
import type { Undo } from '../../shell/use-undo'

export function KindKnobs({ draft, undo }: { draft: Draft; undo: Undo }) {
  const [name, setName] = useState('')
  const { document } = draft
  const kinds = document.kinds ?? []
  const old = draft.baseline.filled_in.kinds ?? []
  return (
    <section aria-label="Kinds of queries" className="line-t mt-2 pt-2">
      <h3 className="quiet small pb-1">Kinds of queries with a blend of their own; the first that fits counts.</h3>
      {kinds.map((kind, i) => (
        <div key={i} className="pb-2">
          <p className="flex items-baseline gap-2">
            <b className="min-w-0 flex-1 truncate font-semibold">{kind.name}</b>
            <button
              type="button"
              className="link small"
              aria-label={`Take out the kind ${kind.name}`}
              onClick={() => undo.commit({ ...document, kinds: without(kinds, i) })}
            >
              take out
            </button>
          </p>
          <p className="quiet small wrap-anywhere">{kindText(kind.when)}</p>
          <BlendKnobs
            name={`Blend of ${kind.name}`}
            where={`kinds[${i}].blend`}
            draft={draft}
            undo={undo}
            blend={{ ...BLEND, ...kind.blend }}
            was={{ ...BLEND, ...(old.find((one) => one.name === kind.name)?.blend ?? kind.blend) }}
            onBlend={(blend) => ({ ...document, kinds: replaced(kinds, i, { blend }) })}
          />
        </div>
      ))}
      <input
        dir="auto"
        aria-label="Name of a new kind"
        placeholder="a new kind: question"
        maxLength={60}
        className="w-full border-b border-base-300 bg-transparent"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <TextKnob
        name="Queries of the new kind"
        mono
        placeholder="4+  or  ..2  or  /\d{4}/  or  quoted"
        value=""
        fits={(text) => text.trim() === '' || parsedKind(text) !== null}
        onText={(text) => {
          const when = parsedKind(text)
          if (!when) return
          undo.commit({
            ...document,
            kinds: [
              ...kinds,
              { name: name.trim() || `kind ${kinds.length + 1}`, when, blend: { ...BLEND, ...document.blend } },
            ],
          })
          setName('')
        }}
      />
    </section>
  )
}

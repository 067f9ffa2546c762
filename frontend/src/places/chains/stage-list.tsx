import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { stages } from '../../api/queries'

export type StageInfo = Schemas['StageInfo']

const GROUPS = [
  { kind: 'text stage', title: 'Text stages, before cutting' },
  { kind: 'tokenizer', title: 'Tokenizers, one of them' },
  { kind: 'token stage', title: 'Token stages, after it' },
]

// The stages there are, each with what it does and an example; a click adds one to the chain.
export function StageList({ onAdd }: { onAdd: (stage: StageInfo) => void }) {
  const known = useQuery(stages())
  const [wanted, setWanted] = useState('')
  const fits = (stage: StageInfo) =>
    [stage.name, stage.summary, stage.example].some((text) => text.toLowerCase().includes(wanted.trim().toLowerCase()))
  const found = known.data?.filter(fits) ?? []
  return (
    <section aria-label="Stages" className="px-4 py-3">
      <input
        dir="auto"
        aria-label="Find a stage"
        placeholder="find a stage"
        className="mb-3 w-full border-b border-base-300 bg-transparent pb-0.5"
        value={wanted}
        onChange={(event) => setWanted(event.target.value)}
      />
      {known.data && found.length === 0 && <p className="quiet">No stage has that name or does that.</p>}
      {GROUPS.map((group) => {
        const own = found.filter((stage) => stage.kind === group.kind)
        if (own.length === 0) return null
        return (
          <section key={group.kind} className="pb-3">
            <h2 className="heading quiet pb-1">{group.title}</h2>
            {own.map((stage) => (
              <div key={stage.name} className="group pb-2">
                <p className="flex items-baseline gap-2">
                  <span className="min-w-0 flex-1 font-mono text-[13px] font-semibold">
                    {stage.name}
                    {stage.parameters.length > 0 && (
                      <span
                        className="quiet font-normal"
                        title={stage.parameters.map((one) => `${one.name}: ${one.wanted}`).join('\n')}
                      >
                        ({stage.parameters.map((one) => one.name).join(', ')})
                      </span>
                    )}
                  </span>
                  <button
                    type="button"
                    className="link small"
                    aria-label={`Add ${stage.name}`}
                    onClick={() => onAdd(stage)}
                  >
                    add
                  </button>
                </p>
                <p className="small">{stage.summary}</p>
                <p className="quiet small wrap-anywhere">{stage.example}.</p>
              </div>
            ))}
          </section>
        )
      })}
    </section>
  )
}

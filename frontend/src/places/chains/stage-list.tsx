import { useQuery } from '@tanstack/react-query'
import { stages } from '../../api/queries'

const GROUPS = [
  { kind: 'text stage', title: 'Text stages, before cutting' },
  { kind: 'tokenizer', title: 'Tokenizers, one of them' },
  { kind: 'token stage', title: 'Token stages, after it' },
]

// The stages there are, each with what it does and an example.
export function StageList() {
  const known = useQuery(stages())
  return (
    <aside aria-label="Stages" className="line-l min-h-0 overflow-y-auto px-4 py-3">
      {GROUPS.map((group) => (
        <section key={group.kind} className="pb-4">
          <h2 className="heading quiet pb-1">{group.title}</h2>
          {known.data
            ?.filter((stage) => stage.kind === group.kind)
            .map((stage) => (
              <div key={stage.name} className="pb-2">
                <p className="font-mono text-[14px] font-semibold">
                  {stage.name}
                  {stage.parameters.length > 0 && <span className="quiet font-normal">({stage.parameters.join(', ')})</span>}
                </p>
                <p className="small">{stage.summary}</p>
                <p className="quiet small wrap-anywhere">{stage.example}.</p>
              </div>
            ))}
        </section>
      ))}
    </aside>
  )
}

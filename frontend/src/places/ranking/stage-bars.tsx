// The stages of a reading's chains, each as two bars: the judged quality with it and without. A click leaves it out.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { stagesOfRanker, type StageTold } from '../../api/curves'
import { ProblemNote } from '../../parts/notes'
import type { Draft } from '../../shell/use-draft'
import type { Undo } from '../../shell/use-undo'
import { stageSays, withAt } from '../../thinking/curve'
import { ChoiceBars } from './choice-bars'
import { useCurves } from './curves'

export function StageBars({ draft, undo, i }: { draft: Draft; undo: Undo; i: number }) {
  // Each takes an index of its own: they are built when somebody wants to see them.
  const [open, setOpen] = useState(false)
  const { set } = useCurves()
  const field = draft.document.readings[i]?.field ?? ''
  if (set === null) return null
  return (
    <section aria-label={`Stages of ${field}`} className="pt-1">
      <button
        type="button"
        className="quiet cursor-pointer py-[3px]"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        <span aria-hidden>{open ? '−' : '+'} </span>
        each stage on or off
      </button>
      {open && <Stages draft={draft} undo={undo} i={i} field={field} />}
    </section>
  )
}

function Stages({ draft, undo, i, field }: { draft: Draft; undo: Undo; i: number; field: string }) {
  const { collection } = useCurves()
  const answer = useQuery(stagesOfRanker(collection, { ...draft.baselineChoice, document: draft.document }))
  if (answer.isError) return <ProblemNote error={answer.error} />
  const stages = answer.data?.filter((one) => one.path[1] === i) ?? []
  if (answer.data && stages.length === 0)
    return <p className="quiet">Its chain has one stage, which it cannot do without.</p>
  return (
    <ul>
      {stages.map((stage, at) => (
        <li key={`${at} ${stage.where} ${stage.stage}`} className="pt-1">
          <p className="truncate font-mono text-[12px]" title={stage.stage}>
            {stage.where && <span className="quiet">{stage.where}: </span>}
            {stage.stage}
          </p>
          {stage.rest === null ? (
            <p className="quiet text-[11px]">needed</p>
          ) : (
            <OnOrOff stage={stage} rest={stage.rest} {...{ draft, undo, field }} isOld={answer.isPlaceholderData} />
          )}
        </li>
      ))}
    </ul>
  )
}

const CHOICES = [
  ['on', 'on'],
  ['off', 'left out'],
] as const

function OnOrOff(props: { stage: StageTold; rest: string; draft: Draft; undo: Undo; field: string; isOld: boolean }) {
  const { stage, rest, draft, undo } = props
  const put = (to: 'on' | 'off') => (to === 'on' ? draft.document : withAt(draft.document, stage.path, rest))
  const name = [stage.stage, stage.where, 'of', props.field].filter(Boolean).join(' ')
  // Of the stages of a former draft none is left out.
  if (props.isOld) return null
  return (
    <ChoiceBars
      name={name}
      value="on"
      choices={CHOICES}
      put={put}
      onChoose={(to) => undo.commit(put(to))}
      says={([on, off]) => stageSays(on ?? 0, off ?? 0)}
    />
  )
}

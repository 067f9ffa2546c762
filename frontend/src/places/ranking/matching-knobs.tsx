// Which words a record must hold, how readings become one score, and what spelling slack is given.
import type { Draft } from '../../shell/use-draft'
import {
  NEED_CHOICES,
  needChoice,
  needOfChoice,
  needSteps,
  SPELLING,
  stepsText,
  type Spelling,
} from '../../thinking/ranker-parts'
import { ChoiceBars } from './choice-bars'
import { Choice, Switch, TextKnob } from './controls'
import { PartKnobs } from './part-knobs'
import type { Undo } from '../../shell/use-undo'

type Props = { draft: Draft; undo: Undo }

const differs = (a: unknown, b: unknown) => JSON.stringify(a) !== JSON.stringify(b)

export function matchingSays(draft: Draft): { says: string; moved: boolean } {
  const { need, combine } = draft.document
  const was = draft.baseline.filled_in
  return {
    says: `${typeof need === 'object' ? 'by length' : need}, ${combine.how}`,
    moved: differs(need, was.need) || differs(combine, was.combine),
  }
}

export function MatchingKnobs({ draft, undo }: Props) {
  const { document } = draft
  const { need, combine } = document
  const was = draft.baseline.filled_in
  const choice = needChoice(need)
  const choices = [
    ...NEED_CHOICES.map((one) => [one, NEED_WORDS[one] ?? one] as const),
    ...(choice === 'other' ? [['other', String(need)] as const] : []),
  ]
  return (
    <>
      <Choice
        name="Words needed"
        value={choice}
        choices={choices}
        moved={differs(need, was.need)}
        onChoose={(next) => next !== 'other' && undo.commit({ ...document, need: needOfChoice(next) })}
      />
      <ChoiceBars
        name="Words needed"
        value={choice}
        choices={choices.filter(([one]) => one !== 'other' && one !== 'by length')}
        put={(next) => ({ ...document, need: needOfChoice(next) })}
        onChoose={(next) => undo.commit({ ...document, need: needOfChoice(next) })}
      />
      {choice === 'by length' && (
        <>
          <TextKnob
            name="Words needed, by the length of the query"
            mono
            value={stepsText(need)}
            fits={(text) => needSteps(text) !== null}
            onText={(text) => {
              const steps = needSteps(text)
              if (steps) undo.commit({ ...document, need: steps })
            }}
          />
          <p className="quiet small">from so many words on, how many of them: 1 all, 4 75%</p>
        </>
      )}
      <PartKnobs
        part="Combine"
        of=""
        value={combine}
        was={was.combine}
        put={(changes) => ({ ...document, combine: { ...combine, ...changes } })}
        undo={undo}
      />
    </>
  )
}

const NEED_WORDS: Record<string, string> = {
  any: 'any of them',
  all: 'all of them',
  '2': 'at least 2',
  '3': 'at least 3',
  '50%': 'half of them',
  '75%': '75 %',
  'by length': 'by length',
}

export function slackSays(draft: Draft): { says: string; moved: boolean } {
  const { spelling } = draft.document
  const edits = spelling?.edits
  return {
    says: !spelling ? 'off' : edits === 'by_length' ? 'by length' : `${edits} ${edits === 1 ? 'edit' : 'edits'}`,
    moved: differs(spelling ?? null, draft.baseline.filled_in.spelling ?? null),
  }
}

export function SlackKnobs({ draft, undo }: Props) {
  const { document } = draft
  const spelling = document.spelling ?? null
  const was = draft.baseline.filled_in.spelling ?? undefined
  const put = (changes: Partial<Spelling>) => ({ ...document, spelling: { ...SPELLING, ...spelling, ...changes } })
  return (
    <>
      <Switch
        name="Words near a word count too"
        on={spelling !== null}
        onTurn={(on) => undo.commit({ ...document, spelling: on ? (was ?? SPELLING) : null })}
      />
      {spelling && (
        <>
          <Choice
            name="Edits"
            wide
            value={String(spelling.edits)}
            choices={[
              ['by_length', 'by the word’s length'],
              ['0', 'none'],
              ['1', 'up to 1'],
              ['2', 'up to 2'],
            ]}
            onChoose={(edits) =>
              undo.commit(put({ edits: edits === 'by_length' ? edits : (Number(edits) as 0 | 1 | 2) }))
            }
          />
          {spelling.edits === 'by_length' && (
            <TextKnob
              name="One edit from so many letters on, two from so many"
              mono
              value={(spelling.lengths ?? SPELLING.lengths)?.join(', ') ?? ''}
              fits={(text) => lengthsOf(text) !== null}
              onText={(text) => {
                const lengths = lengthsOf(text)
                if (lengths) undo.commit(put({ lengths }))
              }}
            />
          )}
          <PartKnobs part="Spelling" of="" value={spelling} was={was} put={put} undo={undo} />
        </>
      )}
    </>
  )
}

function lengthsOf(text: string): [number, number] | null {
  const found = /^\s*(\d{1,2})\s*,\s*(\d{1,2})\s*$/.exec(text)
  const lengths = found ? ([Number(found[1]), Number(found[2])] as [number, number]) : null
  return lengths?.every((one) => one >= 1 && one <= 60) ? lengths : null
}

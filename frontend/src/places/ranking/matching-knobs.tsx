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
import { Choice, NumberKnob, Switch, TextKnob } from './controls'
import type { Undo } from './use-undo'

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
      <Choice
        name="Readings are"
        value={combine.how}
        moved={combine.how !== was.combine.how}
        choices={[
          ['sum', 'summed'],
          ['strongest', 'the strongest'],
          ['pooled', 'pooled'],
        ]}
        onChoose={(how) => undo.commit({ ...document, combine: { ...combine, how } })}
      />
      {combine.how === 'strongest' && (
        <NumberKnob
          name="Share of the rest"
          value={combine.share}
          was={was.combine.share}
          least={0}
          most={1}
          step={0.05}
          onPreview={(share) => undo.preview({ ...document, combine: { ...combine, share } })}
          onCommit={(share) => undo.commit({ ...document, combine: { ...combine, share } })}
          onSettle={undo.settle}
        />
      )}
      {combine.how === 'pooled' && (
        <NumberKnob
          name="k1 of the pool"
          value={combine.k1}
          was={was.combine.k1}
          least={0}
          most={1000}
          reach={5}
          step={0.1}
          onPreview={(k1) => undo.preview({ ...document, combine: { ...combine, k1 } })}
          onCommit={(k1) => undo.commit({ ...document, combine: { ...combine, k1 } })}
          onSettle={undo.settle}
        />
      )}
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
          <Choice
            name="When"
            value={spelling.when ?? 'missing'}
            choices={[
              ['missing', 'no record has it'],
              ['rare', 'few records have it'],
              ['always', 'always'],
            ]}
            onChoose={(when) => undo.commit(put({ when }))}
          />
          {spelling.when === 'rare' && (
            <Plain
              name="Fewer records than"
              value={spelling.rare ?? 5}
              was={was?.rare}
              least={1}
              most={1_000_000}
              reach={100}
              step={1}
              put={(rare) => put({ rare })}
              undo={undo}
            />
          )}
          <Plain
            name="Letters that must agree"
            value={spelling.fixed_start ?? 1}
            was={was?.fixed_start}
            least={0}
            most={10}
            reach={4}
            step={1}
            put={(fixed_start) => put({ fixed_start })}
            undo={undo}
          />
          <Plain
            name="Worth of an edit"
            value={spelling.worth ?? 0.5}
            was={was?.worth}
            least={0.05}
            most={1}
            step={0.05}
            put={(worth) => put({ worth })}
            undo={undo}
          />
          <Plain
            name="Most words"
            value={spelling.most ?? 20}
            was={was?.most}
            least={1}
            most={100}
            step={1}
            put={(most) => put({ most })}
            undo={undo}
          />
          <Switch
            name="Similar by trigrams too"
            title="For names, whose spellings differ by more than a slip"
            on={spelling.similar !== null && spelling.similar !== undefined}
            onTurn={(on) => undo.commit(put({ similar: on ? 0.5 : null }))}
          />
          {typeof spelling.similar === 'number' && (
            <Plain
              name="Similar from"
              value={spelling.similar}
              was={was?.similar ?? undefined}
              least={0.1}
              most={1}
              step={0.05}
              put={(similar) => put({ similar })}
              undo={undo}
            />
          )}
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

function Plain(props: {
  name: string
  value: number
  was: number | undefined
  least: number
  most: number
  reach?: number
  step: number
  put: (value: number) => Parameters<Undo['commit']>[0]
  undo: Undo
}) {
  const { put, undo, ...rest } = props
  return (
    <NumberKnob
      {...rest}
      onPreview={(value) => undo.preview(put(value))}
      onCommit={(value) => undo.commit(put(value))}
      onSettle={undo.settle}
    />
  )
}

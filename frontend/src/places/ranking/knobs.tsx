// The draft's knobs, grouped by part of the ranker. Beside a turned one, what it was.
import { useState } from 'react'
import { useNavigate } from 'react-router'
import type { Collection } from '../../api/queries'
import { carried, useAddress } from '../../shell/address'
import { BASELINE_PARAMS, type Draft } from '../../shell/use-draft'
import { Choice, Part } from './controls'
import { completionsSays, CompletionKnobs } from './completion-knobs'
import { correctionsSays, CorrectionKnobs } from './correction-knobs'
import { feedbackSays, FeedbackKnobs } from './feedback-knobs'
import { KeepVersion } from './keep-version'
import { listSays, ListKnobs } from './list-knobs'
import { matchingSays, MatchingKnobs, slackSays, SlackKnobs } from './matching-knobs'
import { MeaningKnobs, meaningSays } from './meaning-knobs'
import { NearWords } from './near-words'
import { ReadingKnobs } from './reading-knobs'
import { RuleKnobs } from './rule-knobs'
import { SignalKnobs } from './signal-knobs'
import { typingSays, TypingKnobs } from './typing-knobs'
import type { Undo } from '../../shell/use-undo'
import { KNOBS } from '../../api/knobs.gen'
import { namesOfReadings } from '../../thinking/ranker-parts'

const DEFAULT_CHAIN = 'nfkc > words > lower > accents'

export function Knobs(props: {
  collection: Collection
  draft: Draft
  undo: Undo
  query: string
  language: string | null
  row: string | null
}) {
  const { collection, draft, undo } = props
  const { params } = useAddress()
  const navigate = useNavigate()
  const [open, setOpen] = useState<Record<string, boolean>>({})
  const part = (name: string) => ({
    open: open[name] ?? false,
    onOpen: (to: boolean) => setOpen({ ...open, [name]: to }),
  })
  const { document } = draft
  // A reading that is taken out takes what was open in it along.
  const names = namesOfReadings(document.readings)
  const signals = document.signals ?? []
  const rules = document.rules ?? []
  const differs = (a: unknown, b: unknown) => JSON.stringify(a) !== JSON.stringify(b)
  const was = draft.baseline.filled_in
  return (
    <section aria-label="Knobs" className="line-r flex min-h-0 flex-col overflow-y-auto">
      <BaselineBar draft={draft} />
      <h2 className="heading quiet px-4 pt-3 pb-1">Readings</h2>
      {document.readings.map((reading, i) => (
        <ReadingKnobs
          key={`${draft.baseline.name}:${draft.baseline.version} ${names[i]}`}
          draft={draft}
          undo={undo}
          i={i}
          onOpenChains={() => void navigate(`/${collection.name}/chains${carried(params, chainsOf(reading))}`)}
        />
      ))}
      <AddReading collection={collection} draft={draft} undo={undo} />
      <Part name="Matching" {...matchingSays(draft)} {...part('matching')}>
        <MatchingKnobs draft={draft} undo={undo} />
      </Part>
      <Part name="Spelling slack" {...slackSays(draft)} {...part('slack')}>
        <SlackKnobs draft={draft} undo={undo} />
        {open.slack && (
          <NearWords collection={collection} query={props.query} choice={draft.choice} language={props.language} />
        )}
      </Part>
      <WhileTyped {...{ collection, draft, undo, part }} query={props.query} />
      <Part name="Feedback" {...feedbackSays(draft)} {...part('feedback')}>
        <FeedbackKnobs draft={draft} undo={undo} />
      </Part>
      <Part name="Meaning" {...meaningSays(draft)} {...part('meaning')}>
        <MeaningKnobs collection={collection} draft={draft} undo={undo} />
      </Part>
      <Part
        name="Signals"
        says={signals.map((signal) => signal.field).join(', ') || 'none'}
        moved={differs(signals, was.signals ?? [])}
        {...part('signals')}
      >
        <SignalKnobs collection={collection} draft={draft} undo={undo} />
      </Part>
      <Part
        name="Rules"
        says={rules.length ? `${rules.filter((rule) => rule.on !== false).length} of ${rules.length} on` : 'none'}
        moved={differs(rules, was.rules ?? [])}
        {...part('rules')}
      >
        <RuleKnobs collection={collection} draft={draft} undo={undo} query={props.query} row={props.row} />
      </Part>
      <Part name="List" {...listSays(draft)} {...part('list')}>
        <ListKnobs collection={collection} draft={draft} undo={undo} />
      </Part>
      <div className="line-t flex-1" />
      <KeepVersion collection={collection} draft={draft} />
    </section>
  )
}

type PartProps = { open: boolean; onOpen: (to: boolean) => void }

// What the search box does while a query is typed, and with one that was typed badly.
function WhileTyped(props: {
  collection: Collection
  draft: Draft
  undo: Undo
  query: string
  part: (name: string) => PartProps
}) {
  const { collection, draft, undo, part } = props
  return (
    <>
      <Part name="As typed" {...typingSays(draft)} {...part('typing')}>
        <TypingKnobs collection={collection} draft={draft} undo={undo} />
      </Part>
      <Part name="Completions" {...completionsSays(draft)} {...part('completions')}>
        <CompletionKnobs collection={collection} draft={draft} undo={undo} query={props.query} />
      </Part>
      <Part name="Did you mean" {...correctionsSays(draft)} {...part('corrections')}>
        <CorrectionKnobs collection={collection} draft={draft} undo={undo} />
      </Part>
    </>
  )
}

function BaselineBar({ draft }: { draft: Draft }) {
  const { change } = useAddress()
  return (
    <div className="line-b sticky top-0 z-10 flex items-center justify-between bg-base-100 px-4 py-2">
      <label className="flex min-w-0 items-baseline gap-2">
        <span className="quiet small">Baseline</span>
        <select
          aria-label="Baseline"
          className="min-w-0 bg-transparent font-semibold"
          value={`${draft.baseline.name}:${draft.baseline.version}`}
          onChange={(event) => change({ ranker: event.target.value, ...BASELINE_PARAMS })}
        >
          {draft.kept.map((ranker) => (
            <option key={`${ranker.name}:${ranker.version}`} value={`${ranker.name}:${ranker.version}`}>
              {ranker.name} {ranker.version}
            </option>
          ))}
        </select>
      </label>
      <button
        type="button"
        className="link small"
        title="Two knobs turned together, as a surface (s)"
        onClick={() => change({ surface: 'yes' })}
      >
        two knobs
      </button>
    </div>
  )
}

function AddReading({ collection, draft, undo }: { collection: Collection; draft: Draft; undo: Undo }) {
  const { document } = draft
  return (
    <div className="small px-4 pb-2">
      <Choice
        name="Add a reading"
        value=""
        choices={[['', 'choose a field'], ...collection.fields.map((field) => [field.name, field.name] as const)]}
        onChoose={(field) => {
          const reading = {
            field,
            chain: DEFAULT_CHAIN,
            query_chain: null,
            weight: 1,
            k1: 1.2,
            b: 0.75,
            share: 0,
            slack: true,
            nearness: null,
            synonyms: KNOBS.Reading.synonyms.start,
          }
          if (field !== '') undo.commit({ ...document, readings: [...document.readings, reading] })
        }}
      />
    </div>
  )
}

// What the Chains place has to know to open a reading; one whose chain goes by language begins with a plain one there.
function chainsOf(reading: Draft['document']['readings'][number]): Record<string, string> {
  return {
    field: reading.field,
    ...(typeof reading.chain === 'string' ? { rc: reading.chain } : {}),
    ...(typeof reading.query_chain === 'string' ? { qc: reading.query_chain } : {}),
  }
}

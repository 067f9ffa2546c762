// Rules: what is done for certain queries, why, and until when. Each can be switched off to see what it does.
import { useState } from 'react'
import { letGo, useHeld } from '../../parts/use-held'
import type { Collection } from '../../api/queries'
import type { Draft } from '../../shell/use-draft'
import {
  ACTION_WORDS,
  ACTIONS,
  replaced,
  ruleText,
  without,
  type ActionName,
  type Rule,
} from '../../thinking/ranker-parts'
import { RecordBox } from '../../parts/record-box'
import { Choice } from './controls'
import type { Undo } from '../../shell/use-undo'

type Props = { collection: Collection; draft: Draft; undo: Undo; query: string; row: string | null }

export function RuleKnobs(props: Props) {
  const { draft, undo } = props
  const { document } = draft
  const rules = document.rules ?? []
  const held = `rule ${props.collection.name}/`
  const [making, setMaking] = useHeld(`${held}making`, false)
  return (
    <>
      <ol>
        {rules.map((rule, i) => (
          <li key={i} className="small pb-2">
            <label className="flex cursor-pointer gap-2">
              <input
                type="checkbox"
                className="mt-[3px]"
                aria-label={`Rule ${i + 1} on`}
                checked={rule.on ?? true}
                onChange={(event) =>
                  undo.commit({ ...document, rules: replaced(rules, i, { on: event.target.checked }) })
                }
              />
              <span className={`min-w-0 wrap-anywhere ${rule.on === false ? 'quiet line-through' : ''}`}>
                {ruleText(rule)}
              </span>
            </label>
            <p className="quiet flex flex-wrap gap-x-2 pl-6">
              <span>{rule.reason || 'no reason given'}</span>
              {rule.until && <span>until {rule.until}</span>}
              <button
                type="button"
                className="link"
                onClick={() => undo.commit({ ...document, rules: without(rules, i) })}
              >
                take it out
              </button>
            </p>
          </li>
        ))}
      </ol>
      {making ? (
        <NewRule
          {...props}
          onDone={(rule) => {
            letGo(held)
            if (rule) undo.commit({ ...document, rules: [...rules, rule] })
          }}
        />
      ) : (
        <button type="button" className="link small" onClick={() => setMaking(true)}>
          add a rule
        </button>
      )}
    </>
  )
}

const LOOKS_FOR = [
  ['query', 'this very query'],
  ['list', 'a word of a list'],
  ['pattern', 'a pattern'],
  ['every', 'every query'],
] as const

const keysIn = (typed: string) => typed.split(/[\s,]+/).filter(Boolean)

type LooksFor = (typeof LOOKS_FOR)[number][0]

function NewRule(props: Props & { onDone: (rule: Rule | null) => void }) {
  const held = `rule ${props.collection.name}/new `
  const [kind, setKind] = useHeld<LooksFor>(`${held}kind`, 'query')
  const [wanted, setWanted] = useHeld(`${held}wanted`, props.query)
  const [action, setAction] = useHeld<ActionName>(`${held}action`, 'pin')
  const [target, setTarget] = useHeld(`${held}target`, props.row ?? '')
  const [by, setBy] = useHeld(`${held}by`, '2')
  const [reason, setReason] = useHeld(`${held}reason`, '')
  const [until, setUntil] = useHeld(`${held}until`, '')
  const onRecords = ['pin', 'lift', 'hide'].includes(action)
  const fields = props.collection.fields.map((field) => field.name)
  const field = fields.includes(target) ? target : (fields[0] ?? '')
  const make = (): Rule => ({
    when: kind === 'every' ? {} : { [kind]: kind === 'list' && !wanted.startsWith('@') ? `@${wanted}` : wanted },
    do: {
      [action]: onRecords ? keysIn(target) : field,
      ...(action === 'lift' || action === 'weigh' ? { by: Number(by) } : {}),
    },
    reason,
    until: until || null,
    on: true,
  })
  return (
    <form
      aria-label="New rule"
      className="small flex flex-col gap-1 border-l-2 border-primary pl-3"
      onSubmit={(event) => {
        event.preventDefault()
        props.onDone(make())
      }}
    >
      <ForWhich
        kind={kind}
        wanted={wanted}
        onKind={(next) => {
          setKind(next)
          setWanted(next === 'query' ? props.query : '')
        }}
        onWanted={setWanted}
      />
      <Choice
        name="Then"
        wide
        value={action}
        choices={ACTIONS.map((one) => [one, ACTION_WORDS[one]] as const)}
        onChoose={setAction}
      />
      <OnWhat
        collection={props.collection.name}
        onRecords={onRecords}
        target={target}
        field={field}
        fields={fields}
        by={action === 'lift' || action === 'weigh' ? by : null}
        onTarget={setTarget}
        onBy={setBy}
      />
      <input
        dir="auto"
        aria-label="Reason for the rule"
        placeholder="reason"
        required
        maxLength={1000}
        className="border-b border-base-300 bg-transparent"
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <UntilWhen until={until} onUntil={setUntil} />
      <div className="flex gap-2 pt-1">
        <button type="submit" className="btn btn-xs btn-primary">
          Add it to the draft
        </button>
        <button type="button" className="btn btn-ghost btn-xs" onClick={() => props.onDone(null)}>
          Cancel
        </button>
      </div>
    </form>
  )
}

function UntilWhen({ until, onUntil }: { until: string; onUntil: (to: string) => void }) {
  return (
    <label className="flex justify-between">
      until
      <input
        aria-label="Until"
        type="date"
        className="border-b border-base-300 bg-transparent"
        value={until}
        onChange={(event) => onUntil(event.target.value)}
      />
    </label>
  )
}

// Keys, and a box that finds further ones by their titles.
function Records(props: { collection: string; target: string; onTarget: (target: string) => void }) {
  const { target } = props
  const [looked, setLooked] = useState('')
  const line = 'w-full border-b border-base-300 bg-transparent'
  return (
    <>
      <input
        dir="auto"
        aria-label="Keys of records"
        required
        placeholder="keys of records"
        className={`${line} font-mono text-[13px]`}
        value={target}
        onChange={(event) => props.onTarget(event.target.value)}
      />
      <RecordBox
        collection={props.collection}
        label="Add a record by its title"
        placeholder="add one by its title"
        className={line}
        value={looked}
        onType={setLooked}
        onChoose={(key) => {
          setLooked('')
          if (!keysIn(target).includes(key)) props.onTarget(`${target.trim()} ${key}`.trim())
        }}
      />
    </>
  )
}

function ForWhich(props: {
  kind: LooksFor
  wanted: string
  onKind: (kind: LooksFor) => void
  onWanted: (wanted: string) => void
}) {
  const { kind, wanted } = props
  return (
    <>
      <Choice name="For" wide value={kind} choices={LOOKS_FOR} onChoose={props.onKind} />
      {kind !== 'every' && (
        <input
          dir="auto"
          aria-label="What it looks for"
          required
          maxLength={1000}
          placeholder={kind === 'list' ? '@name of a word list' : kind === 'pattern' ? '[A-Z]+-\\d+' : ''}
          className="border-b border-base-300 bg-transparent font-mono text-[13px]"
          value={wanted}
          onChange={(event) => props.onWanted(event.target.value)}
        />
      )}
    </>
  )
}

function OnWhat(props: {
  collection: string
  onRecords: boolean
  target: string
  field: string
  fields: string[]
  // How much it weighs, where that is to be said.
  by: string | null
  onTarget: (target: string) => void
  onBy: (by: string) => void
}) {
  const { onRecords, target, field, fields, by } = props
  return (
    <>
      {onRecords ? (
        <Records collection={props.collection} target={target} onTarget={props.onTarget} />
      ) : (
        <Choice
          name="Field of the rule"
          hidden
          wide
          value={field}
          choices={fields.map((one) => [one, one] as const)}
          onChoose={props.onTarget}
        />
      )}
      {by !== null && (
        <label className="flex justify-between">
          multiplied by
          <input
            aria-label="Multiplied by"
            type="number"
            min={0}
            max={1000}
            step="any"
            required
            className="figure w-[70px] border-b border-base-300 bg-transparent"
            value={by}
            onChange={(event) => props.onBy(event.target.value)}
          />
        </label>
      )}
    </>
  )
}

// The knobs of a part of the ranker, as the core declares them: one that is added there stands here without a word.
import type { RankerDocument } from '../../api/queries'
import { knobName, reachOf, shownKnobs, stepOf, type Knob, type PartName, type Values } from '../../thinking/knobs'
import { ChoiceBars } from './choice-bars'
import { Choice, NumberBox, NumberKnob, Switch } from './controls'
import type { Undo } from '../../shell/use-undo'

export type Put = (changes: Values) => RankerDocument

type Props = {
  part: PartName
  // Whose knobs they are, for their names.
  of: string
  value: Values
  was: Values | undefined
  put: Put
  undo: Undo
  // Knobs that have a control of their own elsewhere.
  own?: readonly string[]
}

export function PartKnobs(props: Props) {
  return shownKnobs(props.part, props.value, props.own ?? []).map(([name, knob]) => (
    <OneKnob
      key={name}
      knob={knob}
      name={knobName(knob, props.of)}
      label={props.of ? knob.words : undefined}
      value={props.value[name]}
      was={props.was?.[name]}
      put={(value) => props.put({ [name]: value })}
      undo={props.undo}
    />
  ))
}

type OneProps = {
  knob: Knob
  name: string
  label: string | undefined
  value: unknown
  was: unknown
  put: (value: unknown) => RankerDocument
  undo: Undo
}

function OneKnob({ knob, name, label, value, was, put, undo }: OneProps) {
  const moved = was !== undefined && JSON.stringify(was) !== JSON.stringify(value ?? null)
  switch (knob.kind) {
    case 'switch':
      return (
        <Switch
          name={label ?? name}
          on={value === true}
          moved={moved}
          title={knob.says}
          onTurn={(on) => undo.commit(put(on))}
        />
      )
    case 'choice':
      return (
        <>
          <Choice
            name={name}
            label={label}
            wide={knob.choices !== undefined && knob.choices.some(([, words]) => words.length > 12)}
            value={String(value)}
            choices={knob.choices ?? []}
            moved={moved}
            onChoose={(next) => undo.commit(put(next))}
          />
          <ChoiceBars
            {...{ name, put }}
            value={String(value)}
            choices={knob.choices ?? []}
            onChoose={(next) => undo.commit(put(next))}
          />
        </>
      )
    case 'maybe number':
    case 'maybe whole':
      return (
        <>
          <Switch
            name={label ?? name}
            on={typeof value === 'number'}
            moved={moved}
            title={knob.says}
            onTurn={(on) => undo.commit(put(on ? (knob.begins ?? knob.least ?? 0) : null))}
          />
          {typeof value === 'number' && <Amount {...{ knob, name, label, value, was, put, undo }} />}
        </>
      )
    default:
      return <Amount {...{ knob, name, label, value, was, put, undo }} />
  }
}

// A number: with a slider where the core says how finely it is turned, in a box alone otherwise.
function Amount({ knob, name, label, value, was, put, undo }: OneProps) {
  const number = Number(value)
  const old = typeof was === 'number' ? was : undefined
  const whole = knob.kind.endsWith('whole')
  const fit = (one: number) => (whole ? Math.round(one) : one)
  const moved = old !== undefined && old !== number
  if (knob.step === undefined || (whole && (knob.most ?? 0) > 1_000 && knob.reach === undefined)) {
    return (
      <label className="flex items-center justify-between gap-2 py-[3px]" title={knob.says}>
        <span className={`min-w-0 flex-1 ${moved ? 'font-semibold text-primary' : ''}`}>{label ?? name}</span>
        {knob.unit && <span className="quiet small">{knob.unit}</span>}
        <NumberBox
          name={name}
          value={number}
          moved={moved}
          least={knob.least ?? -Infinity}
          most={knob.most ?? Infinity}
          onValue={(next) => undo.commit(put(fit(next)))}
        />
      </label>
    )
  }
  return (
    <NumberKnob
      name={name}
      label={label}
      title={knob.says}
      value={number}
      was={old}
      least={knob.least ?? 0}
      most={knob.most ?? 1}
      reach={reachOf(knob, old)}
      step={stepOf(knob)}
      put={(next) => put(fit(next))}
      undo={undo}
    />
  )
}

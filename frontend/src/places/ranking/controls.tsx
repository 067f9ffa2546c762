// What knobs are made of: a number with its slider, a choice, a switch.
import { useState, type ReactNode } from 'react'
import type { RankerDocument } from '../../api/queries'
import type { Undo } from '../../shell/use-undo'
import { weightText } from '../../thinking/figures'
import { useCurves, useInSight } from './curves'
import { CurveSays, DrawnCurve, RoomForCurve, useKnobCurve } from './knob-curve'
import { Select } from '../../parts/select'

type NumberProps = {
  name: string
  value: number
  // What the baseline has; undefined where it has no such part.
  was: number | undefined
  least: number
  most: number
  step: number
  // A slider goes from here to there; the box takes what lies beyond.
  reachDown?: number
  reach?: number
  label?: ReactNode
  title?: string
  // The draft with this knob at another value.
  put: (value: number) => RankerDocument
  undo: Undo
}

export function NumberKnob(props: NumberProps) {
  const { name, value, was, least, step } = props
  const moved = was !== undefined && was !== value
  const reach = props.reach ?? props.most
  const down = props.reachDown ?? least
  const { queue } = useCurves()
  const takeInHand = () => queue.take(name)
  useInSight({ name, from: down, to: reach, step, value, put: props.put })
  const { shown, isAwaited, refused } = useKnobCurve({ name, value, from: down, to: reach, step, put: props.put })
  const commit = (next: number) => props.undo.commit(props.put(next))
  return (
    <div title={props.title} onPointerDown={takeInHand} onFocus={takeInHand}>
      <div className="flex min-h-[28px] flex-wrap items-center gap-x-2">
        <span className="min-w-[60px] flex-1 truncate">{props.label ?? name}</span>
        {moved && (
          <button
            type="button"
            className="quiet small"
            title={`Back to ${weightText(was)}`}
            onClick={() => commit(was)}
          >
            was {weightText(was)} ↺
          </button>
        )}
        {shown && !moved && <CurveSays {...{ shown, name, value }} onValue={commit} />}
        <NumberBox name={name} value={value} moved={moved} least={least} most={props.most} onValue={commit} />
        {(shown || isAwaited) && moved && (
          <span className="min-h-[28px] basis-full text-right">
            {shown && <CurveSays {...{ shown, name, value }} onValue={commit} />}
          </span>
        )}
      </div>
      {refused && <p className="quiet text-[11px] wrap-anywhere">No curve: {refused.message}</p>}
      {shown && <DrawnCurve shown={shown} value={value} was={was} />}
      {isAwaited && <RoomForCurve />}
      <input
        type="range"
        className={shown || isAwaited ? 'weight under-curve' : 'weight'}
        data-moved={moved}
        aria-label={name}
        min={down}
        max={reach}
        step={step}
        value={Math.max(down, Math.min(value, reach))}
        onChange={(event) => props.undo.preview(props.put(Number(event.target.value)))}
        onPointerUp={props.undo.settle}
        onKeyUp={props.undo.settle}
        onBlur={props.undo.settle}
      />
    </div>
  )
}

export function NumberBox(props: {
  name: string
  value: number
  moved: boolean
  least: number
  most: number
  onValue: (value: number) => void
}) {
  const [typed, setTyped] = useState<string | null>(null)
  const settle = () => {
    const value = Number(typed)
    if (typed !== null && typed.trim() !== '' && value >= props.least && value <= props.most) props.onValue(value)
    setTyped(null)
  }
  return (
    <input
      dir="auto"
      aria-label={`${props.name}, as a number`}
      inputMode="decimal"
      className={`figure w-[52px] border-b border-base-300 bg-transparent ${props.moved ? 'font-semibold text-primary' : ''}`}
      value={typed ?? weightText(props.value)}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={settle}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur()
        if (event.key === 'Escape') setTyped(null)
      }}
    />
  )
}

export function Choice<T extends string>(props: {
  name: string
  value: T
  choices: readonly (readonly [T, string])[]
  moved?: boolean
  // What stands beside it, where its name would say more than is needed there.
  label?: string | undefined
  hidden?: boolean
  wide?: boolean
  onChoose: (value: T) => void
}) {
  return (
    <label className="flex items-center justify-between gap-2 py-[3px]">
      <span className={props.hidden ? 'sr-only' : 'min-w-0 flex-1'}>{props.label ?? props.name}</span>
      <Select
        label={props.name}
        className={`min-w-0 ${props.wide ? 'flex-[2]' : 'max-w-[118px]'} border-b border-base-300 bg-transparent ${props.moved ? 'font-semibold text-primary' : ''}`}
        value={props.value}
        choices={props.choices}
        onChoose={props.onChoose}
      />
    </label>
  )
}

export function Switch(props: {
  name: string
  on: boolean
  moved?: boolean
  title?: string
  onTurn: (on: boolean) => void
}) {
  return (
    <label className="flex cursor-pointer items-center justify-between gap-2 py-[3px]" title={props.title}>
      <span className={`min-w-0 truncate ${props.moved ? 'font-semibold text-primary' : ''}`}>{props.name}</span>
      <input type="checkbox" checked={props.on} onChange={(event) => props.onTurn(event.target.checked)} />
    </label>
  )
}

// A text that counts when it is left or Enter is pressed; what does not fit is shown as such and not taken.
export function TextKnob(props: {
  name: string
  value: string
  placeholder?: string
  fits?: (text: string) => boolean
  onText: (text: string) => void
  mono?: boolean
}) {
  const [typed, setTyped] = useState<string | null>(null)
  const wrong = typed !== null && props.fits !== undefined && !props.fits(typed)
  return (
    <input
      dir="auto"
      aria-label={props.name}
      aria-invalid={wrong}
      placeholder={props.placeholder}
      className={`w-full border-b bg-transparent ${wrong ? 'border-error' : 'border-base-300'} ${props.mono ? 'font-mono text-[13px]' : ''}`}
      value={typed ?? props.value}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={() => {
        if (typed !== null && !wrong && typed !== props.value) props.onText(typed)
        setTyped(null)
      }}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur()
        if (event.key === 'Escape') {
          setTyped(null)
          event.currentTarget.blur()
        }
      }}
    />
  )
}

// A part of the ranker: folded to one line that says how it stands, or open.
export function Part(props: {
  name: string
  says: string
  moved: boolean
  open: boolean
  onOpen: (open: boolean) => void
  children: ReactNode
}) {
  return (
    <section className="line-t" aria-label={props.name}>
      <button
        type="button"
        aria-expanded={props.open}
        className="flex w-full cursor-pointer items-baseline gap-2 px-4 py-2 text-left"
        onClick={() => props.onOpen(!props.open)}
      >
        <span aria-hidden className="quiet w-[10px]">
          {props.open ? '−' : '+'}
        </span>
        <span className="heading">{props.name}</span>
        <span
          className={`small min-w-0 flex-1 truncate text-right ${props.moved ? 'font-semibold text-primary' : 'quiet'}`}
        >
          {props.says}
        </span>
      </button>
      {props.open && <div className="px-4 pb-3">{props.children}</div>}
    </section>
  )
}

// Curves in turn: the knob in hand first, then the others from top to bottom, a few at a time, once the waterline is there.
import { useIsFetching, useQuery } from '@tanstack/react-query'
import { createContext, useContext, useEffect, useMemo, useSyncExternalStore, type ReactNode } from 'react'
import { turnsOf, type Turned } from '../../api/curves'
import type { Collection, How, RankerDocument } from '../../api/queries'
import { usePaused } from '../../parts/use-paused'
import { placeOfChange, valueAt, withAt } from '../../thinking/curve'
import { parsedHow } from '../../thinking/how'
import { nextInTurn, type Awaited } from '../../thinking/turn-order'
import { useAddress } from '../../shell/address'
import { useSetName, type Draft } from '../../shell/use-draft'
import { useMainMeasure, useMeter } from '../../shell/use-meter'

// The draft stands still that long before the other curves follow it.
const PAUSE_MS = 250

type Curves = {
  collection: Collection
  draft: Draft
  set: string | null
  measure: string
  how: Partial<How>
  // What the draft was measured at, once that is of the draft as it stands.
  mean: number | null
  queue: Queue
  knobs: KnobsInSight
}

// A number that can be turned. put: the draft with it at another value.
export type KnobInSight = {
  name: string
  from: number
  to: number
  step: number
  value: number
  put: (value: number) => RankerDocument
}

// The numbers that are in sight, by name.
class KnobsInSight {
  private knobs = new Map<string, KnobInSight>()
  private listeners = new Set<() => void>()

  listen = (tell: () => void) => {
    this.listeners.add(tell)
    return () => void this.listeners.delete(tell)
  }
  // One text, so that it is the same as long as nothing comes or goes.
  names = () => [...this.knobs.keys()].join('\n')
  named = (name: string | undefined) => this.knobs.get(name ?? '')
  put(knob: KnobInSight) {
    const isNew = !this.knobs.has(knob.name)
    this.knobs.set(knob.name, knob)
    if (isNew) this.listeners.forEach((tell) => tell())
  }
  leave(name: string) {
    this.knobs.delete(name)
    this.listeners.forEach((tell) => tell())
  }
}

export function useInSight(knob: KnobInSight) {
  const { knobs } = useCurves()
  const { name } = knob
  useEffect(() => knobs.put(knob))
  useEffect(() => () => knobs.leave(name), [knobs, name])
}

export function useKnobsInSight(): { names: string[]; named: (name: string | undefined) => KnobInSight | undefined } {
  const { knobs } = useCurves()
  const names = useSyncExternalStore(knobs.listen, knobs.names)
  return { names: names === '' ? [] : names.split('\n'), named: knobs.named }
}

class Queue {
  private waiting = new Map<string, Awaited>()
  inHand: string | null = null
  private listeners = new Set<() => void>()

  listen = (tell: () => void) => {
    this.listeners.add(tell)
    return () => void this.listeners.delete(tell)
  }
  isNext = (name: string) => nextInTurn([...this.waiting], this.inHand).includes(name)
  put(name: string, awaited: Awaited) {
    const before = this.waiting.get(name)
    if (before?.isThere === awaited.isThere && before.isQuick === awaited.isQuick) return
    this.waiting.set(name, awaited)
    this.tell()
  }
  leave(name: string) {
    this.waiting.delete(name)
    this.tell()
  }
  take(name: string) {
    this.inHand = name
    this.tell()
  }
  private tell() {
    this.listeners.forEach((own) => own())
  }
}

const Context = createContext<Curves | null>(null)

export function useCurves(): Curves {
  const curves = useContext(Context)
  if (curves === null) throw new Error('knobs stand within WithCurves')
  return curves
}

export function WithCurves(props: { collection: Collection; draft: Draft; children: ReactNode }) {
  const { collection, draft } = props
  const set = useSetName(collection)
  const measure = useMainMeasure()
  const rules = useAddress().params.get('rules')
  const { meter, asked } = useMeter(collection)
  const isOfDraft = asked.every((one) => one.isSuccess && !one.isPlaceholderData)
  const mean = isOfDraft ? (meter?.draft.figures.measured.means[measure] ?? null) : null
  const queue = useMemo(() => new Queue(), [])
  const knobs = useMemo(() => new KnobsInSight(), [])
  const value = useMemo(
    () => ({ collection, draft, set, measure, how: { ...parsedHow(rules), bands: true }, mean, queue, knobs }),
    [collection, draft, set, measure, rules, mean, queue, knobs],
  )
  return <Context value={value}>{props.children}</Context>
}

// Knobs that no judged query hears of: they have no curves, and are none of two that are turned together.
export function WithoutCurves({ children }: { children: ReactNode }) {
  const curves = useCurves()
  const knobs = useMemo(() => new KnobsInSight(), [])
  const queue = useMemo(() => new Queue(), [])
  const value = useMemo(() => ({ ...curves, set: null, mean: null, knobs, queue }), [curves, knobs, queue])
  return <Context value={value}>{children}</Context>
}

// Whether it is this one's turn to be asked for. isThere: whether its answer is there already.
function useTurn(queue: Queue, name: string, isThere: boolean, isQuick: boolean): boolean {
  const isMeasuring = useIsFetching({ queryKey: ['measuring', 'measured'] }) > 0
  const isNext = useSyncExternalStore(queue.listen, () => queue.isNext(name))
  useEffect(() => {
    queue.put(name, { isThere, isQuick })
  }, [queue, name, isThere, isQuick])
  useEffect(() => () => queue.leave(name), [queue, name])
  return isNext && !isMeasuring
}

// What each value of a knob would come to, everything else as in the draft; asked for when it is its turn.
// isAwaited: it is still to come, so that its room is kept and nothing moves under a pointer when it does.
export function useTurns<T>(
  name: string,
  values: readonly T[],
  put: (value: T) => RankerDocument,
): { turned: Turned[] | null; isOld: boolean; isAwaited: boolean; refused: Error | null } {
  const curves = useCurves()
  const [first, last] = [values[0], values.at(-1)]
  // With the knob itself at its first value, so that turning it asks nothing anew.
  const still = first === undefined ? curves.draft.document : put(first)
  const path = last === undefined ? null : placeOfChange(still, put(last))
  const document = usePaused(JSON.stringify(still), PAUSE_MS)
  const ranker = { ...curves.draft.baselineChoice, document: JSON.parse(document) as RankerDocument }
  // While the draft is on its way elsewhere it is not what the pause is of.
  const ofDraft =
    path !== null && JSON.stringify(withAt(curves.draft.document, path, valueAt(still, path))) === document
  const asked = turnsOf(
    curves.collection,
    curves.set ?? '',
    ranker,
    curves.measure,
    curves.how,
    (path ? values : []).map((value) => ({ path: path ?? [], value: valueAt(put(value), path ?? []) })),
    ofDraft ? { ...curves.draft.baselineChoice, document: curves.draft.document } : ranker,
  )
  const known = useQuery({ ...asked, enabled: false })
  const isThere = path === null || curves.set === null || known.isError || (known.isSuccess && !known.isPlaceholderData)
  const isTurn = useTurn(curves.queue, name, isThere, typeof first === 'number')
  const answer = useQuery({ ...asked, enabled: isTurn && !isThere, retry: false })
  const isCurrent = answer.isError && !answer.isPlaceholderData
  return {
    turned: isCurrent ? null : (answer.data?.turned ?? null),
    isOld: answer.isPlaceholderData,
    isAwaited: !isThere && answer.data === undefined,
    refused: isCurrent ? answer.error : null,
  }
}

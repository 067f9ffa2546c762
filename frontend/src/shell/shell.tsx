// What stands around every place: the rail on the left, the strip across the top, the keys.
import { useCallback, useRef, useState, type ReactNode } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import type { Collection } from '../api/queries'
import { carried } from './address'
import { PAGE_KEYS, typing, useKeys, type Key } from './keys'
import { KeysSheet } from './keys-sheet'
import { Rail } from './rail'
import { Strip } from './strip'
import { turnTheme } from './theme'

const PLACE_KEYS: Record<string, Key[]> = {
  records: [
    { keys: '1 … 7', does: 'the views, left to right' },
    { keys: 'j  k', does: 'next field or record, the one before' },
    { keys: 'Esc', does: 'close what is open' },
  ],
  ranking: [
    { keys: 'j  k', does: 'next row, row before' },
    { keys: 'Ctrl z', does: 'take a weight back' },
    { keys: 'Ctrl Shift z', does: 'and put it again' },
    { keys: '← →', does: 'on a weight: turn it' },
    { keys: 'b', does: 'back to the baseline' },
    { keys: 'y n v', does: 'why, why not, versions' },
    { keys: 'c', does: 'make a judged query of a complaint' },
    { keys: 'p', does: 'park this list beside the draft’s' },
    { keys: 'l', does: 'words, meaning and the blend side by side' },
  ],
  chains: [
    { keys: 'n  p', does: 'next record, record before' },
    { keys: 'e  w', does: 'to the record chain, to the query chain' },
    { keys: 'Tab', does: 'in a chain: take what is offered' },
    { keys: 'Alt Enter', does: 'in a chain: take the suggested name' },
    { keys: 'c', does: 'to the cards' },
    { keys: 'Alt ← →', does: 'on a card: move the stage' },
    { keys: 'Space', does: 'on a card: switch the stage off, on' },
    { keys: 'm', does: "the doctor's first mend" },
    { keys: 'b', does: 'two chains side by side' },
    { keys: '← →', does: 'on the meeting: light word after word' },
    { keys: 'Ctrl z', does: 'take a change of a chain back' },
  ],
  spaces: [
    { keys: 'j  k', does: 'next space, space before' },
    { keys: 'n', does: 'make a space' },
  ],
  judging: [
    { keys: '1 … 5', does: 'the views, left to right' },
    { keys: 'j  k', does: 'next query, query before' },
    { keys: 'n', does: 'a new query, task or expectation' },
    { keys: 'f', does: 'find among the queries' },
    { keys: 'j  k', does: 'next conflict, conflict before' },
    { keys: 'Alt 0 … 3', does: 'settle the conflict so' },
    { keys: 'u', does: 'take the last settling back' },
  ],
  measures: [
    { keys: '1 … 5', does: 'the views, left to right' },
    { keys: 'j  k', does: 'next query, query before' },
    { keys: 'Enter', does: 'open the query in Ranking' },
  ],
}

export function Shell(props: { collection: Collection; all: Collection[]; place: string; children: ReactNode }) {
  const { collection, all, place, children } = props
  const [showsKeys, setShowsKeys] = useState(false)
  const navigate = useNavigate()
  const [params] = useSearchParams()
  const leading = useRef(false)
  const queryBox = useRef<HTMLInputElement>(null)

  const handle = useCallback(
    (event: KeyboardEvent) => {
      if (event.key === 'Escape' && showsKeys) return setShowsKeys(false)
      if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
      const afterG = leading.current
      leading.current = event.key === 'g' && !afterG
      const target = { d: 'records', r: 'ranking', c: 'chains', m: 'measures', s: 'spaces', j: 'judging' }[event.key]
      if (afterG && target) {
        event.preventDefault()
        navigate(`/${collection.name}/${target}${carried(params)}`)
      } else if (event.key === '/') {
        event.preventDefault()
        queryBox.current?.focus()
        queryBox.current?.select()
      } else if (event.key === '?') setShowsKeys((shown) => !shown)
      else if (event.key === 't') turnTheme()
    },
    [showsKeys, navigate, collection.name, params],
  )
  useKeys(handle)

  return (
    <div className="grid h-full grid-cols-[76px_minmax(0,1fr)] grid-rows-[52px_minmax(0,1fr)]">
      <Rail collection={collection.name} place={place} onKeys={() => setShowsKeys(true)} />
      <Strip collection={collection} all={all} place={place} queryBox={queryBox} />
      <main className="min-h-0 min-w-0">{children}</main>
      {showsKeys && (
        <KeysSheet page={PAGE_KEYS} place={PLACE_KEYS[place] ?? []} name={place} onClose={() => setShowsKeys(false)} />
      )}
    </div>
  )
}

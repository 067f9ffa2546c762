// The query that follows from place to place. In Ranking, where the draft suggests whole queries, it does so while one is
// typed: a combobox as the ARIA practices describe it, with the focus in the box and the arrows among the suggestions.
import { useQuery } from '@tanstack/react-query'
import { useId, useState, type KeyboardEvent, type RefObject } from 'react'
import { completionsFor, type Completion } from '../api/completions'
import type { Collection } from '../api/queries'
import { MarkedText } from '../parts/marked-text'
import { gatheringText, optionAfter, piecesOf } from '../thinking/completions'
import { useAddress } from './address'
import { useDraft, type Draft } from './use-draft'

const LONGEST_QUERY = 10_000
const SHOWN = 8
const LOOKS = 'input input-sm w-full border-base-300 bg-transparent text-[15px]'

type Props = { collection: Collection; place: string; queryBox: RefObject<HTMLInputElement | null> }

export function QueryBox({ collection, place, queryBox }: Props) {
  const { draft } = useDraft(collection)
  const suggests = place === 'ranking' && draft?.document.completions
  return suggests ? <Suggesting {...{ collection, draft, queryBox }} /> : <Plain queryBox={queryBox} />
}

function useTypedQuery(): [string, (query: string, replace?: boolean) => void] {
  const { params, change } = useAddress()
  return [params.get('q') ?? '', (q, replace) => change({ q, row: null, skip: null, at: null }, replace)]
}

const same = {
  type: 'text',
  'aria-label': 'Query',
  placeholder: 'A query, as a visitor would type it  ( / )',
  maxLength: LONGEST_QUERY,
  spellCheck: false,
  className: LOOKS,
} as const

function Plain({ queryBox }: { queryBox: RefObject<HTMLInputElement | null> }) {
  const [query, put] = useTypedQuery()
  return (
    <input
      {...same}
      dir="auto"
      ref={queryBox}
      role="searchbox"
      value={query}
      onChange={(event) => put(event.target.value)}
      onKeyDown={(event) => event.key === 'Escape' && event.currentTarget.blur()}
    />
  )
}

function Suggesting({ collection, draft, queryBox }: { collection: Collection; draft: Draft } & Omit<Props, 'place'>) {
  const [query, put] = useTypedQuery()
  const list = useId()
  const { options, at, gathering, open, close, go } = useSuggestions(collection, draft)
  const take = (one: Completion) => {
    put(one.text, false)
    close()
  }
  const onKey = (event: KeyboardEvent<HTMLInputElement>) => {
    const to = optionAfter(event.key, at, options.length)
    const chosen = options[at]
    if (to !== null) {
      event.preventDefault()
      go(to)
    } else if (event.key === 'ArrowDown') open(query)
    else if (event.key === 'Enter' && chosen) {
      event.preventDefault()
      take(chosen)
    } else if (event.key === 'Enter') close()
    else if (event.key === 'Escape' && options.length > 0) close()
    else if (event.key === 'Escape') event.currentTarget.blur()
  }
  return (
    <>
      <input
        {...same}
        dir="auto"
        ref={queryBox}
        role="combobox"
        aria-autocomplete="list"
        aria-expanded={options.length > 0}
        aria-controls={list}
        aria-activedescendant={options[at] ? `${list}-${at}` : undefined}
        autoComplete="off"
        value={query}
        onChange={(event) => {
          put(event.target.value)
          open(event.target.value)
        }}
        onBlur={close}
        onKeyDown={onKey}
      />
      <Options {...{ list, options, at }} onTake={take} />
      {gathering && (
        <p
          role="status"
          className="quiet small absolute top-full right-0 left-0 z-30 border border-base-300 bg-base-100 px-3 py-1 shadow-lg"
        >
          {gatheringText(gathering)}
        </p>
      )}
    </>
  )
}

// The suggestions for what was typed by hand, while they are open. at: the one that the arrows are on, −1 for none.
function useSuggestions(collection: Collection, draft: Draft) {
  const [{ typed, at }, setState] = useState({ typed: '', at: -1 })
  const isTyped = typed.trim() !== ''
  const found = useQuery({ ...completionsFor(collection, draft.choice, typed, SHOWN), enabled: isTyped })
  return {
    options: isTyped ? (found.data?.completions ?? []) : [],
    gathering: isTyped ? (found.data?.gathering ?? null) : null,
    at,
    open: (text: string) => setState({ typed: text, at: -1 }),
    close: () => setState({ typed: '', at: -1 }),
    go: (to: number) => setState({ typed, at: to }),
  }
}

type OptionsProps = { list: string; options: Completion[]; at: number; onTake: (one: Completion) => void }

function Options({ list, options, at, onTake }: OptionsProps) {
  return (
    <ul
      id={list}
      role="listbox"
      aria-label="Suggestions"
      hidden={options.length === 0}
      className="absolute top-full right-0 left-0 z-30 border border-base-300 bg-base-100 py-1 shadow-lg"
    >
      {options.map((one, i) => (
        <li
          key={one.text}
          id={`${list}-${i}`}
          role="option"
          aria-selected={i === at}
          className={`cursor-pointer truncate px-3 py-[3px] ${i === at ? 'bg-base-300' : ''}`}
          // The box keeps the focus.
          onPointerDown={(event) => event.preventDefault()}
          onClick={() => onTake(one)}
        >
          <MarkedText pieces={piecesOf(one)} />
        </li>
      ))}
    </ul>
  )
}

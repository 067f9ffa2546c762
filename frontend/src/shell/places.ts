// The places of the page, in the order of the rail: each with its sign, the key that leads there and its own keys.
import type { Key } from './keys'

export type Place = { place: string; name: string; glyph: string; letter: string; keys: Key[] }

export const PLACES = [
  {
    place: 'records',
    name: 'Records',
    glyph: 'M5 4h11l3 3v13H5zM8 9h8M8 13h8M8 17h5',
    letter: 'd',
    keys: [
      { keys: '1 … 9', does: 'the views, left to right' },
      { keys: 'j  k', does: 'next field or record, the one before' },
      { keys: 'Esc', does: 'close what is open' },
    ],
  },
  {
    place: 'chains',
    name: 'Chains',
    glyph: 'M4 8h5m6 0h5M9 5h6v6H9zM4 17h3m10 0h3M7 14h4v6H7zm6 0h4v6h-4z',
    letter: 'c',
    keys: [
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
  },
  {
    place: 'spaces',
    name: 'Spaces',
    glyph: 'M4 20V4m0 16h16M8.5 9h1M12.5 12.5h1M16.5 7.5h1M9 16h1M16 16h1',
    letter: 's',
    keys: [
      { keys: 'j  k', does: 'next space, space before' },
      { keys: 'n', does: 'make a space' },
    ],
  },
  {
    place: 'ranking',
    name: 'Ranking',
    glyph: 'M4 6h16M4 12h11M4 18h6',
    letter: 'r',
    keys: [
      { keys: 'j  k', does: 'next row, row before' },
      { keys: '← →', does: 'on a weight: turn it' },
      { keys: 's', does: 'two knobs turned together, as a surface' },
      { keys: 't', does: 'the list as the query is typed, letter by letter' },
      { keys: 'b', does: 'back to the baseline' },
      { keys: 'y n m v', does: 'why, why not, missed, versions' },
      { keys: '0 … 3', does: 'grade the row for the open query' },
      { keys: 'c', does: 'make a judged query of a complaint' },
      { keys: 'w', does: 'the worst loss on the waterline, then the next one' },
      { keys: 'p', does: 'park this list beside the draft’s' },
      { keys: 'l', does: 'words, meaning and the blend side by side' },
      { keys: 'd', does: 'compact rows, one line a record' },
    ],
  },
  {
    place: 'judging',
    name: 'Judging',
    glyph: 'M12 4v16M5 20h14M12 6 5 9m7-3 7 3M5 9l-2.5 5h5zm14 0-2.5 5h5z',
    letter: 'j',
    keys: [
      { keys: '1 … 5', does: 'the views, left to right' },
      { keys: 'j  k', does: 'next query, query before' },
      { keys: 'n', does: 'a new query, task or expectation' },
      { keys: 'f', does: 'find among the queries' },
      { keys: 'j  k', does: 'next conflict, conflict before' },
      { keys: 'Alt 0 … 3', does: 'settle the conflict so' },
      { keys: 'u', does: 'take the last settling back' },
    ],
  },
  {
    place: 'measures',
    name: 'Measures',
    glyph: 'M3 13h18M6 13V6m4 7V9m4 4v5m4-5v3',
    letter: 'm',
    keys: [
      { keys: '1 … 7', does: 'the views, left to right' },
      { keys: 'j  k', does: 'next query, query before' },
      { keys: 'Enter', does: 'open the query in Ranking' },
    ],
  },
  {
    place: 'tuning',
    name: 'Tuning',
    glyph: 'M4 7h9m4 0h3M13 5v4h4V5zM4 17h3m4 0h9M7 15v4h4v-4z',
    letter: 'u',
    keys: [
      { keys: '1 … 4', does: 'the views, left to right' },
      { keys: 'm', does: 'make what was found the draft' },
    ],
  },
  {
    place: 'delivery',
    name: 'Delivery',
    glyph: 'M3 18h18M5 18l1-5h12l1 5M12 13V4m0 0 6 4-6 2M3 21c2 0 2-1 4.5-1s2.5 1 4.5 1 2.5-1 4.5-1 2.5 1 4.5 1',
    letter: 'v',
    keys: [
      { keys: '1 … 5', does: 'the views, left to right' },
      { keys: 'b', does: 'back to what was live before' },
      { keys: 'j  k', does: 'next query, query before' },
      { keys: 'q', does: 'make the query a judged one' },
    ],
  },
  {
    place: 'people',
    name: 'People',
    glyph:
      'M9 11a3.2 3.2 0 1 0 0-6.4A3.2 3.2 0 0 0 9 11zm-6 9c0-4 2.6-6 6-6s6 2 6 6m1-9.4a2.8 2.8 0 0 0 0-5.4M21 19c0-3-1.4-4.7-3.4-5.3',
    letter: 'p',
    keys: [{ keys: '1 … 4', does: 'the views, left to right' }],
  },
] as const satisfies readonly Place[]

export type PlaceName = (typeof PLACES)[number]['place']

export const placeNamed = (name: string | undefined): Place | undefined => PLACES.find((one) => one.place === name)

export const isPlace = (name: string): name is PlaceName => placeNamed(name) !== undefined

// g and then the place's letter.
export const placeAt = (letter: string): Place | undefined => PLACES.find((one) => one.letter === letter)

export const PAGE_KEYS: Key[] = [
  { keys: '/', does: 'to the query' },
  ...PLACES.map(({ letter, name }) => ({ keys: `g ${letter}`, does: `to ${name}` })),
  { keys: 'Ctrl k', does: 'find a place, an action, a ranker, a query, a record' },
  { keys: 't', does: 'day or night' },
  { keys: 'Ctrl z', does: 'take a change of the draft back' },
  { keys: 'Ctrl Shift z', does: 'and make it again' },
  { keys: '?', does: 'these keys' },
]

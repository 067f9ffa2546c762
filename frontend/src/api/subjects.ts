// What answers are about: every key begins with its subject and with what of it was asked, and whoever changes a
// subject has what follows from it asked anew.
import type { QueryClient } from '@tanstack/react-query'

export type Subject =
  | 'constants'
  | 'collections'
  | 'records'
  | 'imports'
  | 'chains'
  | 'rankers'
  | 'lists'
  | 'spaces'
  | 'judging'
  | 'measuring'
  | 'tuning'
  | 'judge'
  | 'people'
  | 'delivery'
  | 'following'

const EVERYTHING: Subject[] = [
  'collections',
  'records',
  'imports',
  'chains',
  'rankers',
  'lists',
  'spaces',
  'judging',
  'measuring',
  'people',
  'delivery',
]

// What is no longer true once a subject has changed. A record, a word list or a filled space is read by everything.
const FOLLOWS: Partial<Record<Change, Subject[]>> = {
  // Whoever makes or renames one owns it by its name: what they may is asked anew with it.
  collections: ['collections', 'people'],
  rankers: ['collections', 'rankers', 'chains', 'spaces', 'delivery'],
  chains: ['chains'],
  spaces: ['spaces'],
  judging: ['collections', 'judging', 'measuring'],
  measuring: ['measuring'],
  tuning: ['tuning'],
  people: ['people', 'collections'],
  // What goes live is written into the diary.
  delivery: ['delivery', 'measuring'],
  'past queries': ['lists'],
  following: ['following'],
}

export type Change =
  | 'everything'
  | 'collections'
  | 'rankers'
  | 'chains'
  | 'spaces'
  | 'judging'
  | 'measuring'
  | 'tuning'
  | 'past queries'
  | 'people'
  | 'delivery'
  | 'following'

export const followers = (change: Change): Subject[] => FOLLOWS[change] ?? EVERYTHING

// What there is, by name: asked first, since what is gone need not be asked about any more.
const THERE = ['collections', 'rankers', 'judged sets', 'outside', 'spaces', 'chains', 'imports', 'tunings']
// What is asked of one record, which may be gone when it is somebody else who changed the records.
const OF_ONE_RECORD = ['record', 'earlier', 'readings', 'why', 'why not', 'nearest', 'map']

export type Renewing = {
  // Whose: of all collections where it is left out.
  collection?: string | undefined
  // A key or a name that is no longer there: nothing is asked about it again.
  gone?: string | undefined
  // Told by the server: perhaps of somebody else's doing.
  elsewhere?: boolean
}

export async function renew(client: QueryClient, change: Change, { collection, gone, elsewhere }: Renewing = {}) {
  const subjects = followers(change)
  const asked = (key: readonly unknown[]) =>
    subjects.some((one) => one === key[0]) &&
    (collection === undefined || key.length < 3 || key[0] === 'imports' || key[2] === collection) &&
    (gone === undefined || !key.includes(gone)) &&
    !(elsewhere === true && OF_ONE_RECORD.includes(String(key[1])))
  const isThere = (key: readonly unknown[]) => THERE.includes(String(key[1]))
  await client.invalidateQueries({ predicate: ({ queryKey }) => asked(queryKey) && isThere(queryKey) })
  await client.invalidateQueries({ predicate: ({ queryKey }) => asked(queryKey) && !isThere(queryKey) })
}

// Locked queries were opened. To look at them again would be to open them again: these answers stay.
export const renewVerdicts = (client: QueryClient, collection: string) =>
  client.invalidateQueries({
    predicate: ({ queryKey: [subject, what, whose, , sides] }) =>
      subject === 'measuring' &&
      ['compared', 'owner page', 'diary'].includes(String(what)) &&
      whose === collection &&
      (what === 'diary' || (sides as { part?: string } | null)?.part === 'open'),
  })

// What the palette finds by a few letters: everything that has a name and can be gone to or done.
export type Found = {
  kind: 'place' | 'view' | 'action' | 'ranker' | 'query' | 'record' | 'field' | 'collection'
  name: string
  // Said beside it, and looked through too.
  note: string
  // Where it leads; an action has none.
  to?: string
  act?: () => void
}

export const KINDS: Record<Found['kind'], string> = {
  place: 'place',
  view: 'view',
  action: 'action',
  ranker: 'ranker',
  query: 'judged query',
  record: 'record',
  field: 'field',
  collection: 'collection',
}

const MOST = 60
// A set may have thousands of queries: they leave room for what comes after them.
const MOST_QUERIES = 12

const folded = (text: string) => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()

// Every word typed has to stand in the name or the note; those whose name begins so come first, then those with a word
// that does. Equals stay in their order.
export function search(all: readonly Found[], typed: string): Found[] {
  const words = folded(typed).split(/\s+/).filter(Boolean)
  if (words.length === 0) return all.filter((one) => one.kind !== 'query').slice(0, MOST)
  const ranked = all.flatMap((one, place) => {
    const name = folded(one.name)
    const text = `${name} ${folded(one.note)}`
    if (!words.every((word) => text.includes(word))) return []
    const first = words[0] ?? ''
    const rank = name === words.join(' ') ? 0 : name.startsWith(first) ? 1 : name.includes(` ${first}`) ? 2 : 3
    return [{ one, rank, place }]
  })
  let queries = 0
  return ranked
    .sort((a, b) => a.rank - b.rank || a.place - b.place)
    .map(({ one }) => one)
    .filter((one) => one.kind !== 'query' || (queries += 1) <= MOST_QUERIES)
    .slice(0, MOST)
}

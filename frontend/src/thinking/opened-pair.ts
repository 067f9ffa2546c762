// The address of Ranking that shows two rankers' lists for a query: the second as the draft's own list, the first
// beside it. The draft stays a draft; lists of outside rankers cannot be shown there.
const KEPT = ['set', 'rules']

export function openedPair(params: URLSearchParams, first: string, second: string, query: string): string {
  const next = new URLSearchParams({ q: query })
  for (const name of KEPT) {
    const value = params.get(name)
    if (value !== null) next.set(name, value)
  }
  const isOurs = (name: string) => /^[^/]+:\d+$/.test(name)
  const drafted = first === 'the draft' || second === 'the draft'
  if (drafted) {
    for (const name of ['ranker', 'd']) {
      const value = params.get(name)
      if (value !== null) next.set(name, value)
    }
    const other = first === 'the draft' ? second : first
    if (isOurs(other)) next.set('beside', other)
    return next.toString()
  }
  const own = isOurs(second) ? second : first
  if (isOurs(own)) next.set('ranker', own)
  if (own === second && isOurs(first)) next.set('beside', first)
  return next.toString()
}

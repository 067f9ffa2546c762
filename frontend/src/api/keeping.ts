// What may stand on the screen while its successor is fetched: the former answer to the same question, asked of another
// draft or another page of the list. Never another collection's, another query's or another record's. Whoever shows it
// marks it.

type Key = readonly unknown[]
type Former<T> = T | undefined

// A question's key, and which parts of it may be turned while its former answer stays.
export const keptKey = <K extends Key>(queryKey: K, ...mayTurn: number[]) => ({
  queryKey,
  placeholderData: <T>(former: Former<T>, of: { queryKey: Key } | undefined): Former<T> =>
    of !== undefined && differsOnlyAt(queryKey, of.queryKey, mayTurn) ? former : undefined,
})

const differsOnlyAt = (key: Key, other: Key, mayTurn: readonly number[]): boolean =>
  key.length === other.length &&
  key.every((part, i) => mayTurn.includes(i) || JSON.stringify(part) === JSON.stringify(other[i]))

// The entries of a table whose keys are known: for these alone, since an object may always hold more.
export function entriesOf<K extends string, V>(table: Readonly<Record<K, V>>): [K, V][] {
  return Object.entries(table) as [K, V][]
}

// Which judged set is meant where nobody says: the first that people judged, and only else the one that was made up.
const MADE_UP = 'simulated'

export const usualSet = (names: readonly string[]): string | null =>
  names.find((name) => name !== MADE_UP) ?? names[0] ?? null

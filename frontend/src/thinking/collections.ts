// Which of the collections is shown where none is named.
const DEMO = 'saltmere'

type Known = { name: string; default_ranker: string | null }

// The one that was last used, else the demo, else the first that can be searched, else the first.
export const firstShown = <C extends Known>(all: readonly C[], lastUsed: string | null): C | undefined =>
  all.find((one) => one.name === lastUsed) ??
  all.find((one) => one.name === DEMO) ??
  all.find((one) => one.default_ranker !== null) ??
  all[0]

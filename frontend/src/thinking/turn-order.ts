// What is waited for. isQuick: a number, which is weighed from sheets; a choice may have to be searched for.
export type Awaited = { isThere: boolean; isQuick: boolean }

// So many are asked for at once: more of them would keep the first ones waiting.
const AT_ONCE = 5

// Who is asked for next: the one in hand, else the first that is not there yet, numbers with the numbers behind it.
export function nextInTurn(all: readonly (readonly [string, Awaited])[], inHand: string | null): string[] {
  const missing = all.filter(([, one]) => !one.isThere)
  const [first] = missing
  const own = missing.find(([name]) => name === inHand)
  if (own || first === undefined) return own ? [own[0]] : []
  if (!first[1].isQuick) return [first[0]]
  return missing
    .filter(([, one]) => one.isQuick)
    .slice(0, AT_ONCE)
    .map(([name]) => name)
}

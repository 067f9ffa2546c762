// Who is asked for next: the one in hand, else the first that is not there yet.
export function nextInTurn(all: readonly (readonly [string, boolean])[], inHand: string | null): string | null {
  const missing = all.filter(([, isThere]) => !isThere).map(([name]) => name)
  return missing.find((name) => name === inHand) ?? missing[0] ?? null
}

// Several chains on one text: what each makes of every stretch, and where they differ.
import type { Schemas } from '../api/client'

type Token = Schemas['TokenModel']
// made: what each chain leaves of the stretch, in the order of the chains.
export type Stretch = { start: number; end: number; made: string[][]; differs: boolean }

// Tokens whose stretches overlap belong together, whatever chain they come from.
export function stretches(chains: readonly (readonly Token[])[]): Stretch[] {
  const all = chains
    .flatMap((tokens, chain) => tokens.map((token) => ({ token, chain })))
    .sort((a, b) => a.token.start - b.token.start || a.token.end - b.token.end || a.chain - b.chain)
  const found: Stretch[] = []
  for (const { token, chain } of all) {
    const last = found.at(-1)
    const own =
      last && token.start < last.end
        ? last
        : { start: token.start, end: token.end, made: chains.map(() => []), differs: false }
    if (own !== last) found.push(own)
    own.end = Math.max(own.end, token.end)
    own.made[chain]?.push(token.text)
  }
  for (const stretch of found) stretch.differs = new Set(stretch.made.map(sorted)).size > 1
  return found
}

const sorted = (texts: readonly string[]) => [...texts].sort().join('\0')

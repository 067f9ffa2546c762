// Two chains on one text: what each makes of every stretch, and where they differ.
import type { Schemas } from '../api/client'

type Token = Schemas['TokenModel']
export type Pair = { start: number; end: number; first: string[]; second: string[]; differs: boolean }

// Tokens whose stretches overlap belong together, whatever chain they come from.
export function pairs(first: Token[], second: Token[]): Pair[] {
  const all = [
    ...first.map((token) => ({ token, side: 'first' as const })),
    ...second.map((token) => ({ token, side: 'second' as const })),
  ].sort((a, b) => a.token.start - b.token.start || a.token.end - b.token.end)
  const made: Pair[] = []
  for (const { token, side } of all) {
    const last = made.at(-1)
    const own =
      last && token.start < last.end
        ? last
        : { start: token.start, end: token.end, first: [], second: [], differs: false }
    if (own !== last) made.push(own)
    own.end = Math.max(own.end, token.end)
    own[side].push(token.text)
  }
  for (const pair of made) pair.differs = [...pair.first].sort().join('\0') !== [...pair.second].sort().join('\0')
  return made
}

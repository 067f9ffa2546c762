// Lists side by side: which rows are the same record, and which side found it.
import type { Lists } from '../api/spaces'

export type Side = 'both' | 'words' | 'meaning'

// Which side found a record. ranks: words first, then each space's, the blended list last.
export function sideOf(ranks: readonly number[]): Side {
  const byWords = (ranks[0] ?? 0) > 0
  const byMeaning = ranks.slice(1, -1).some((rank) => rank > 0)
  return byWords && byMeaning ? 'both' : byWords ? 'words' : 'meaning'
}

export type Tie = { key: string; from: number; to: number; column: number }

// Lines between neighbouring columns: the same record's rows, counted from 0, as far as both are shown.
export function ties(lists: Lists['lists'], order: readonly number[]): Tie[] {
  const found: Tie[] = []
  for (let column = 0; column + 1 < order.length; column += 1) {
    const right = new Map((lists[order[column + 1] ?? -1] ?? []).map((row, i) => [row.key, i]))
    ;(lists[order[column] ?? -1] ?? []).forEach((row, i) => {
      const to = right.get(row.key)
      if (to !== undefined) found.push({ key: row.key, from: i, to, column })
    })
  }
  return found
}

// The order of columns: words, then the blend in the middle, then the spaces: lines lead to it from both sides.
export function columnOrder(names: readonly string[]): number[] {
  const last = names.length - 1
  return [0, last, ...names.map((_, i) => i).slice(1, last)]
}

// What is said of a query that may have meant another one, and of what corrections do.
import type { CorrectionsMeasured, DidYouMean } from '../api/corrections'
import { countText, measureText, signedText } from './figures'
import type { Piece } from './marks'

// The other query, its changed words marked: they stand in the order of the query.
export function changedPieces(meant: Pick<DidYouMean, 'said' | 'changes'>): Piece[] {
  const signs = [...meant.said]
  const pieces: Piece[] = []
  let at = 0
  for (const change of meant.changes) {
    pieces.push({ text: signs.slice(at, change.start).join(''), marked: false })
    pieces.push({ text: change.meant, marked: true })
    at = change.end
  }
  pieces.push({ text: signs.slice(at).join(''), marked: false })
  return pieces.filter((piece) => piece.text !== '')
}

export type BySure = { sure: number; what: 'mended' | 'touched' | 'nDCG@10'; value: number }

// The lines of the curve over how sure a correction has to be; quality only where a set was measured.
export const pointsBySure = (told: Pick<CorrectionsMeasured, 'steps'>): BySure[] =>
  told.steps.flatMap(({ sure, mended, touched, mean }): BySure[] => [
    { sure, what: 'mended', value: mended },
    { sure, what: 'touched', value: touched },
    ...(mean === null ? [] : [{ sure, what: 'nDCG@10' as const, value: mean }]),
  ])

const records = (count: number) => `${countText(count)} ${count === 1 ? 'record holds' : 'records hold'}`

export const gainText = ({ found, finds }: DidYouMean): string =>
  `${records(finds)} all of its words, ${found === 0 ? 'none' : countText(found)} those that were typed`

// Never quite sure: what is not typed is not known.
export const sureText = ({ sure }: DidYouMean): string => `${Math.floor(Math.min(sure, 0.999) * 100)} % sure`

const plus = (value: number) => `${value > 0 ? '+' : ''}${signedText(value, 3)}`

export function measuredText(told: CorrectionsMeasured): string[] {
  const made = told.slips.reduce((sum, one) => sum + one.made, 0)
  const mended = told.slips.reduce((sum, one) => sum + one.mended, 0)
  const wrong = told.slips.reduce((sum, one) => sum + one.wrong, 0)
  const pair = told.compared
  return [
    ...(pair
      ? [
          `nDCG@10 of ${countText(pair.queries)} open queries: ${measureText(pair.first)} as typed, ${measureText(pair.second)} corrected, ` +
            `${plus(pair.gain)} (${plus(pair.interval.low)} to ${plus(pair.interval.high)}, p ${pair.randomisation.toFixed(3)}).`,
          `${countText(told.right_changed)} of them were right and are told something else.`,
        ]
      : []),
    made > 0
      ? `Of ${countText(made)} made-up slips ${countText(mended)} are mended, and ${countText(wrong)} made something else of; ` +
        `${countText(told.right_touched)} of ${countText(told.right_made)} right ones are touched.`
      : 'Hardly a word of this collection has enough letters for made-up slips.',
  ]
}

// How a blend was made, in words and figures that can be reckoned again.
import type { WhyAnswer } from '../api/queries'
import { scoreText, weightText } from './figures'

type Blend = NonNullable<WhyAnswer['blend']>
type ListPart = Blend['lists'][number]

export function blendWords(blend: Blend): string {
  switch (blend.how) {
    case 'reciprocal_rank':
      return 'Blended: ranks, fused'
    case 'weighted_sum':
      return blend.normalise === 'none'
        ? 'Blended: scores, added'
        : `Blended: scores, made comparable (${blend.normalise.replace('_', '-')}) and added`
    case 'fill_up':
      return 'Words first, filled up by meaning'
    case 'reorder':
      return `The first ${blend.depth} by words, in the order of meaning`
    case 'formula':
      return 'By a formula'
  }
}

// One list's share. The weights of the spaces are those that count: `meaning` dealt out among them.
export function partWords(blend: Blend, list: ListPart): string {
  const own = list.name === 'words' ? `${scoreText(list.score)} by words` : `${scoreText(list.score)} alike`
  if (list.rank === 0) return `not in this list; ${own}`
  const there = `number ${list.rank} there, ${own}`
  if (blend.how === 'reciprocal_rank')
    return `${weightText(list.weight)} / (${weightText(blend.k)} + ${list.rank}); ${there}`
  if (blend.how === 'weighted_sum' && list.weight > 0)
    return `${weightText(list.weight)} × ${scoreText(list.part / list.weight)}; ${there}`
  return there
}

export function blendText(blend: Blend): string[] {
  return [
    `  blended: ${blend.score}  ${blendWords(blend)}`,
    ...blend.lists.map((list) => `    ${list.part}  ${list.name}: ${partWords(blend, list)}`),
    ...blend.steps.map((step) => `    ${step.value ?? 'not listed'}  ${step.text}`),
    ...(blend.second_look
      ? [
          `    second stage: ${blend.second_look.score} = ${1 - blend.second_look.weight} × ${blend.second_look.place} + ${blend.second_look.weight} × ${blend.second_look.similarity}`,
        ]
      : []),
  ]
}

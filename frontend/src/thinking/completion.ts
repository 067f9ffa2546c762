// What may be typed next in chain notation.
import type { Schemas } from '../api/client'

type StageInfo = Schemas['StageInfo']
type WordList = Schemas['ListInUse']

export type Option = { insert: string; note: string }
// from, to: the stretch of the source that an option replaces, in UTF-16 units.
export type Completion = { from: number; to: number; options: Option[] }

const MOST_SHOWN = 8

export function completion(source: string, caret: number, stages: StageInfo[], lists: WordList[]): Completion | null {
  const before = source.slice(0, caret)
  const partial = /[@\p{L}\p{N}_-]*$/u.exec(before)?.[0] ?? ''
  const from = caret - partial.length
  const to = caret + (/^[\p{L}\p{N}_-]*/u.exec(source.slice(caret))?.[0].length ?? 0)
  const inside = openCall(before)
  if (inside === 'text' || partial.startsWith('#')) return null
  const all = inside
    ? argumentOptions(inside, stages, lists, hasTokenizer(before, stages))
    : stageOptions(before.slice(0, from), stages)
  if (all === null) return null
  const wanted = partial.toLowerCase()
  const fitting = all.filter((option) => option.insert.toLowerCase().startsWith(wanted) && option.insert !== partial)
  return fitting.length ? { from, to, options: fitting.slice(0, MOST_SHOWN) } : null
}

type Open = { stage: string; place: number }

// The stage whose parentheses are open, with the number of the argument; 'text' inside quotes, slashes or a comment.
function openCall(before: string): Open | 'text' | null {
  let open: Open | null = null
  let word = ''
  for (let i = 0; i < before.length; i++) {
    const letter = before[i] ?? ''
    if (letter === '#') {
      const end = before.indexOf('\n', i)
      if (end < 0) return 'text'
      i = end
    } else if (letter === '"' || (letter === '/' && open)) {
      let end = i + 1
      while (end < before.length && before[end] !== letter) end += before[end] === '\\' ? 2 : 1
      if (end >= before.length) return 'text'
      i = end
    } else if (letter === '(') open = { stage: word, place: 0 }
    else if (letter === ')') open = null
    else if (letter === ',' && open) open.place += 1
    if (/[\w-]/.test(letter)) word += letter
    else if (letter.trim() !== '') word = ''
    else if (/[\w-]/.test(before[i + 1] ?? '')) word = ''
  }
  return open
}

function stageOptions(before: string, stages: StageInfo[]): Option[] | null {
  const bare = before.replace(/#[^\n]*/g, '').trimEnd()
  if (bare !== '' && !bare.endsWith('>')) return null
  const cut = hasTokenizer(before, stages)
  return stages
    .filter((stage) => (stage.kind === 'token stage') === cut)
    .map((stage) => ({
      insert: stage.parameters.some((parameter) => parameter.default === null) ? `${stage.name}(` : stage.name,
      note: stage.summary,
    }))
}

function hasTokenizer(before: string, stages: StageInfo[]): boolean {
  const named = before.replace(/\([^)]*\)?/g, '').match(/[\p{L}_][\w-]*(?=\s*(?:>|$))/gu) ?? []
  return named.some((name) => stages.some((stage) => stage.name === name && stage.kind === 'tokenizer'))
}

function argumentOptions(open: Open, stages: StageInfo[], lists: WordList[], cut: boolean): Option[] {
  const named = stages.filter((stage) => stage.name === open.stage)
  const stage = named.find((one) => (one.kind === 'token stage') === cut) ?? named[0]
  const parameter = stage?.parameters[open.place]
  if (!stage || !parameter) return []
  return [
    ...parameter.choices.map((choice) => ({ insert: choice, note: `${parameter.name} of ${stage.name}` })),
    ...lists
      .filter((list) => list.kind === parameter.list_kind)
      .map((list) => ({ insert: `@${list.name}`, note: `${list.entries} entries, version ${list.version}` })),
  ]
}

// Lays a trace out in columns: one for each token that the tokenizer cut, and every later token in
// the column of the stretch it came from.
import type { Meeting, Stage } from '../api/queries'

export type Cell = { texts: string[]; dropped: boolean; changed: boolean }

export type Row = { stage: string; kind: Stage['kind']; changed: boolean; text: string | null; cells: Cell[] }

export type Grid = {
  rows: Row[]
  // For each column: where it came from, and the last stage's tokens in it, by index.
  columns: { start: number; end: number; finals: number[] }[]
  // For each of the last stage's tokens its column.
  columnOf: number[]
}

export function grid(stages: Stage[]): Grid {
  const cut = stages.findIndex((stage) => stage.kind === 'tokenizer')
  const cutStage = stages[cut]
  if (!cutStage) return { rows: [], columns: [], columnOf: [] }
  let columnOf = cutStage.tokens.map((_, i) => i)
  let texts = cutStage.tokens.map((token) => [token.text])
  const rows: Row[] = stages.slice(0, cut).map((stage) => ({
    stage: stage.stage,
    kind: stage.kind,
    changed: stage.changed,
    text: stage.text,
    cells: [],
  }))
  rows.push(rowOf(cutStage, texts, null))
  for (const stage of stages.slice(cut + 1)) {
    const before = texts
    columnOf = stage.parents.map((parent) => columnOf[parent] ?? 0)
    texts = cutStage.tokens.map((): string[] => [])
    stage.tokens.forEach((token, i) => texts[columnOf[i] ?? 0]?.push(token.text))
    rows.push(rowOf(stage, texts, before))
  }
  const columns = cutStage.tokens.map((token) => ({ start: token.start, end: token.end, finals: [] as number[] }))
  columnOf.forEach((column, i) => columns[column]?.finals.push(i))
  return { rows, columns, columnOf }
}

function rowOf(stage: Stage, texts: string[][], before: string[][] | null): Row {
  return {
    stage: stage.stage,
    kind: stage.kind,
    changed: stage.changed,
    text: null,
    cells: texts.map((own, column) => {
      const was = before?.[column]
      return {
        texts: own,
        dropped: own.length === 0 && (was?.length ?? 0) > 0,
        changed: was !== undefined && own.join('\0') !== was.join('\0'),
      }
    }),
  }
}

// A place across the page: record column above the quay line, query column below it; one may be empty.
export type Berth = { record: number | null; query: number | null }
export type Stretch = { kind: 'berth'; berth: Berth } | { kind: 'folded'; berths: Berth[] }

// Query columns that met nobody stand first; the others under the first record column they moor to.
export function berths(record: Grid, query: Grid, moorings: Meeting['moorings']): Berth[] {
  const tokensMet = new Map(moorings.map((mooring) => [mooring.query_token, mooring.record_tokens]))
  const under = new Map<number, number[]>()
  const adrift: number[] = []
  query.columns.forEach((column, queryColumn) => {
    const met = column.finals.flatMap((final) => tokensMet.get(final) ?? [])
    const first = met.reduce((least, token) => Math.min(least, token), Infinity)
    const at = record.columnOf[first] ?? -1
    if (at < 0) adrift.push(queryColumn)
    else under.set(at, [...(under.get(at) ?? []), queryColumn])
  })
  const made: Berth[] = adrift.map((column) => ({ record: null, query: column }))
  record.columns.forEach((_, column) => {
    const own = under.get(column) ?? []
    made.push({ record: column, query: own[0] ?? null })
    for (const more of own.slice(1)) made.push({ record: null, query: more })
  })
  return made
}

// Long runs of record columns without company are folded, so that moored ones are seen together.
export function folded(
  all: Berth[],
  company: (berth: Berth) => boolean,
  most: number,
  open: ReadonlySet<number>,
): Stretch[] {
  if (all.length <= most) return all.map((berth) => ({ kind: 'berth', berth }))
  // Company of a record column shows its neighbours too; a query column adrift shows itself only.
  const near = all.map(
    (own, i) => [all[i - 1], all[i + 1]].some((b) => b && b.record !== null && company(b)) || company(own),
  )
  // Something of the record must be seen even where nothing met.
  if (!all.some((berth) => berth.record !== null && company(berth))) near.fill(true, 0, most)
  // Of a word that stands everywhere the first places are shown: a grid of hundreds of columns tells no more.
  let room = 3 * most
  for (let i = 0; i < near.length; i++) if (near[i] && --room < 0) near[i] = false
  const made: Stretch[] = []
  let run: Berth[] = []
  const close = () => {
    const first = run[0]
    if (!first) return
    if (run.length < 3 || open.has(first.record ?? -1))
      made.push(...run.map((berth) => ({ kind: 'berth' as const, berth })))
    else made.push({ kind: 'folded', berths: run })
    run = []
  }
  all.forEach((berth, i) => {
    if (near[i]) {
      close()
      made.push({ kind: 'berth', berth })
    } else run.push(berth)
  })
  close()
  return made
}

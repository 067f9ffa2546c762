// Decisions of judging: where a judge goes next, what is told of judges, what an agreement means.
export const GRADE_NAMES = ['off topic', 'related', 'useful', 'exactly it']

// A query is the same whatever its capitals and the blanks around it.
export const isSameQuery = (one: string, other: string) => plain(one) === plain(other)
const plain = (text: string) => text.trim().replace(/\s+/g, ' ').toLowerCase()

// The address of a judged query as it is measured: with the filters that it is asked with.
export const askedAs = ({
  query,
  filters,
}: {
  query: string
  filters: readonly unknown[]
}): Record<string, string> => ({
  q: query,
  ...(filters.length > 0 ? { f: JSON.stringify(filters) } : {}),
})

export type Place = { query: number; record: number }

// The next record without a word, from a place on and round again; null where everything is judged.
export function nextUnjudged(judged: readonly (readonly boolean[])[], from: Place): Place | null {
  const all = judged.flatMap((own, query) => own.map((done, record) => ({ query, record, done })))
  const start = all.findIndex((one) => one.query === from.query && one.record === from.record)
  const round = [...all.slice(start + 1), ...all.slice(0, start + 1)]
  const found = round.find((one) => !one.done)
  return found ? { query: found.query, record: found.record } : null
}

// Said gently, and only where there is something to say: on ten shared records at least, half a grade and more.
export function driftText(judge: { judge: string; shared: number; drift: number }): string {
  if (judge.shared < 10 || Math.abs(judge.drift) < 0.5) return ''
  const way = judge.drift > 0 ? 'higher' : 'lower'
  return `grades ${Math.abs(judge.drift).toFixed(1)} ${way} than the others do; worth a talk about what the grades mean`
}

// Rough words for a figure of agreement (J. R. Landis and G. G. Koch, "The Measurement of Observer Agreement", 1977).
export function agreementText(value: number | null): string {
  if (value === null) return 'nothing to compare yet'
  if (value < 0) return 'less than by chance'
  const steps: [number, string][] = [
    [0.2, 'slight'],
    [0.4, 'fair'],
    [0.6, 'moderate'],
    [0.8, 'substantial'],
  ]
  return steps.find(([below]) => value <= below)?.[1] ?? 'almost perfect'
}

export const judgeName = (judge: string) => judge || 'nobody named'

// Of the judges that are named, those who are known already, with the newest task that asked them; null for those of
// whom only a refusal tells.
export function judgesBefore(
  tasks: readonly { name: string; judges: readonly { judge: string }[] }[],
  names: readonly string[],
  refusal: string,
): Map<string, string | null> {
  const known = new Map<string, string | null>()
  for (const name of names) {
    const task = tasks.find((one) => one.judges.some((judge) => judge.judge === name))
    if (task) known.set(name, task.name)
    else if (name !== '' && refusal.startsWith(`"${name}" has judged`)) known.set(name, null)
  }
  return known
}

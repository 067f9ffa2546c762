// Names of judges are the people of before only by the engineer's word.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { tasksOf } from '../../api/judging'
import { judgesBefore } from '../../thinking/judging'

// problem: of the last try, which may name a judge that only files know. same: the names that are known people.
export function useSamePeople(collection: string, set: string, names: readonly string[], problem: string) {
  const tasks = useQuery(tasksOf(collection, set)).data ?? []
  const known = judgesBefore(tasks, names, problem)
  const [said, setSaid] = useState<string[]>([])
  return { known, same: said.filter((one) => known.has(one)), setSaid }
}

export function SamePeople({ known, same, setSaid }: ReturnType<typeof useSamePeople>) {
  return [...known].map(([name, task]) => (
    <label key={name} className="flex min-h-6 items-center gap-2">
      <input
        type="checkbox"
        checked={same.includes(name)}
        onChange={(event) => setSaid(event.target.checked ? [...same, name] : same.filter((one) => one !== name))}
      />
      <span>
        <bdi>{name}</bdi> is the one {task === null ? 'who judged before' : 'of '}
        {task !== null && <q>{task}</q>}
      </span>
    </label>
  ))
}

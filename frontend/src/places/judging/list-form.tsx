// A pasted list of queries, or what visitors asked: a query a line, after a tab how often, or what was wanted.
import { useState } from 'react'
import { addList, type JudgedSummary } from '../../api/judging'
import type { Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { countText } from '../../thinking/figures'
import { useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { Changing } from '../../shell/changing'

export function ListForm({ collection, set }: { collection: Collection; set: JudgedSummary }) {
  const { change } = useAddress()
  const { busy, problem, act } = useDoing('judging', collection.name)
  const held = `list ${collection.name}/${set.name}/`
  const [text, setText] = useHeld(`${held}text`, '')
  const [most, setMost] = useHeld(`${held}most`, '')
  const [added, setAdded] = useState<number | null>(null)
  return (
    <form
      onSubmit={async (event) => {
        event.preventDefault()
        await act(async () => {
          const done = await addList(collection.name, set.name, text, most ? Number(most) : null)
          setAdded(done.added)
          setText('')
        })
      }}
    >
      <Changing>
        <h2 className="heading quiet pb-2">Queries from a list</h2>
        <p className="small pb-2">
          A query a line. After a tab may stand how often it was asked, or what was wanted. A log of past queries, one
          line each time, is counted.
        </p>
        <textarea
          dir="auto"
          aria-label="List of queries"
          rows={12}
          autoFocus
          className="textarea textarea-sm w-full border-base-300 bg-transparent font-mono"
          placeholder={'a query\t40\nanother query\twhat is wanted by it\na third one'}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <label className="quiet small flex items-center gap-2 py-1">
          or a file
          <input
            type="file"
            aria-label="File of queries"
            className="w-full bg-transparent"
            onChange={async (event) => {
              const file = event.target.files?.[0]
              if (file) setText(await file.text())
            }}
          />
        </label>
        <label className="flex items-center gap-2 py-1">
          <span className="quiet small">take the most asked</span>
          <input
            aria-label="Most"
            type="number"
            min={1}
            className="input input-xs w-[70px] border-base-300 bg-transparent"
            placeholder="all"
            value={most}
            onChange={(event) => setMost(event.target.value)}
          />
          <span className="quiet small">new ones; what is there already gets its count</span>
        </label>
        <div className="flex gap-2 pt-2">
          <button type="submit" className="btn btn-sm btn-primary" disabled={busy || text.trim() === ''}>
            Add them
          </button>
          <button type="button" className="btn btn-sm btn-ghost" onClick={() => change({ new: null })}>
            Close
          </button>
        </div>
        {added !== null && (
          <p role="status" className="pt-2">
            {countText(added)} new {added === 1 ? 'query' : 'queries'}.
          </p>
        )}
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

// Vectors made elsewhere: an array and the names of its rows, of records or of queries.
import { useState } from 'react'
import { bringVectors, type Space } from '../../api/spaces'
import { ProblemNote } from '../../parts/notes'
import { countText } from '../../thinking/figures'
import { useDoing } from '../../shell/use-doing'
import { Changing } from '../../shell/changing'

export function BringForm({ collection, space }: { collection: string; space: Space }) {
  const { busy, problem, act } = useDoing('spaces', collection)
  const [brought, setBrought] = useState<Awaited<ReturnType<typeof bringVectors>> | null>(null)
  const [about, setAbout] = useState<'record' | 'query'>('record')
  const [vectors, setVectors] = useState<File | null>(null)
  const [names, setNames] = useState<File | null>(null)
  const bring = async () => {
    if (vectors && names) setBrought(await act(() => bringVectors(collection, space.name, about, vectors, names)))
  }
  return (
    <form
      aria-label="Bring vectors"
      className="line-b px-6 py-4"
      onSubmit={(event) => {
        event.preventDefault()
        void bring()
      }}
    >
      <Changing>
        <h2 className="heading quiet pb-2">Bring vectors</h2>
        <div className="flex flex-wrap items-end gap-4">
          <label>
            <span className="quiet small block">of</span>
            <select
              aria-label="What the vectors are of"
              className="boxed w-auto bg-transparent"
              value={about}
              onChange={(event) => setAbout(event.target.value as typeof about)}
            >
              <option value="record">records, named by key</option>
              <option value="query">queries, named by their words</option>
            </select>
          </label>
          <label>
            <span className="quiet small block">an array, .npy, one vector a row</span>
            <input
              aria-label="File of vectors"
              type="file"
              accept=".npy"
              className="text-[14px]"
              onChange={(event) => setVectors(event.target.files?.[0] ?? null)}
            />
          </label>
          <label>
            <span className="quiet small block">the rows’ names, one a line</span>
            <input
              aria-label="File of names"
              type="file"
              accept=".txt,text/plain"
              className="text-[14px]"
              onChange={(event) => setNames(event.target.files?.[0] ?? null)}
            />
          </label>
          <button type="submit" className="btn btn-sm btn-primary" disabled={!vectors || !names || busy}>
            {busy ? 'Bringing …' : 'Bring them'}
          </button>
        </div>
        {problem && <ProblemNote error={problem} />}
        {brought && (
          <div className="pt-2">
            <p>{countText(brought.kept)} vectors are in.</p>
            <ul className="small">
              {brought.wrong.map((line) => (
                <li key={line}>{line}</li>
              ))}
            </ul>
          </div>
        )}
      </Changing>
    </form>
  )
}

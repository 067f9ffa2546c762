// The rules of a judged set, what its grades mean, its files in and out.
import { useRef, useState } from 'react'
import { changeRules, dropSet, fileOf, lockAway, putFiles, type Settling } from '../../api/judging'
import { GradeRungs } from '../../parts/grade-rungs'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { countText } from '../../thinking/figures'
import { GRADE_NAMES } from '../../thinking/judging'
import { RULES } from './agreement-view'
import type { SetProps } from './set-props'
import { useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { entriesOf } from '../../thinking/entries'
import { Select } from '../../parts/select'
import { Changing } from '../../shell/changing'

const FORMS = { csv: 'CSV', jsonl: 'JSON Lines', columns: 'plain columns' }

export function SetView({ collection, set }: SetProps) {
  return (
    <div className="panes grid h-full grid-cols-2 overflow-y-auto">
      <Rules collection={collection} set={set} />
      <section aria-label="Files" className="line-l px-6 py-4">
        <h2 className="heading quiet pb-2">Out</h2>
        <FilesOut collection={collection} set={set} />
        <FilesIn collection={collection} set={set} />
        <h2 className="heading quiet pt-6 pb-2">Drop the set</h2>
        <Changing>
          <DropSet collection={collection} set={set} />
        </Changing>
      </section>
    </div>
  )
}

function Rules({ collection, set }: SetProps) {
  const { problem, act } = useDoing('judging', collection.name)
  const held = `rules ${collection.name}/${set.name}/`
  const [meanings, setMeanings] = useHeld(
    `${held}meanings`,
    [0, 1, 2, 3].map((grade) => set.meanings[grade] ?? ''),
  )
  const [settling, setSettling] = useState(set.settling)
  // One after the other: what was said last must be what is kept.
  const line = useRef<Promise<unknown>>(Promise.resolve())
  const keep = (how: Settling) => {
    line.current = line.current.then(() =>
      act(() => changeRules(collection.name, set.name, { settling: how, locked_share: set.locked_share, meanings })),
    )
  }
  const settle = (how: Settling) => {
    setSettling(how)
    keep(how)
  }
  return (
    <section aria-label="Rules" className="px-6 py-4">
      {problem && <ProblemNote error={problem} />}
      <Changing>
        <h2 className="heading quiet pb-2">What the grades mean</h2>
        <p className="quiet small pb-2">
          Judges have this in view all the time. An example for each helps more than a rule.
        </p>
        {[3, 2, 1, 0].map((grade) => (
          <label key={grade} className="grid row-stack grid-cols-[20px_110px_minmax(0,1fr)] items-center gap-2 pb-2">
            <GradeRungs grade={grade} />
            <span>
              {grade} {GRADE_NAMES[grade]}
            </span>
            <textarea
              dir="auto"
              aria-label={`Meaning of grade ${grade}`}
              rows={2}
              maxLength={10_000}
              className="textarea textarea-sm w-full border-base-300 bg-transparent"
              value={meanings[grade]}
              onChange={(event) => setMeanings(meanings.map((one, i) => (i === grade ? event.target.value : one)))}
              onBlur={() => JSON.stringify(meanings) !== JSON.stringify(set.meanings) && keep(settling)}
            />
          </label>
        ))}
        <h2 className="heading quiet pt-4 pb-2">When judges differ</h2>
        {entriesOf(RULES).map(([value, said]) => (
          <label key={value} className="flex items-center gap-2 py-1">
            <input type="radio" name="settling" checked={settling === value} onChange={() => settle(value)} />
            {said}
          </label>
        ))}
        <h2 className="heading quiet pt-4 pb-2">Locked away</h2>
        <p className="small pb-2">
          {countText(set.locked)} of {countText(set.queries)} queries are locked: they are measured only when somebody
          opens them, and the diary says so. More can be locked; none is opened by itself.
        </p>
        <LockAway collection={collection} set={set} />
      </Changing>
    </section>
  )
}

function LockAway({ collection, set }: SetProps) {
  const { busy, problem, act } = useDoing('judging', collection.name)
  const [share, setShare] = useState(Math.round(set.locked_share * 100))
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        void act(() => lockAway(collection.name, set.name, share / 100))
      }}
    >
      <Changing needs="own">
        <input
          aria-label="Share to lock"
          type="number"
          min={0}
          max={90}
          className="input input-sm w-[80px] border-base-300 bg-transparent"
          value={share}
          onChange={(event) => setShare(Number(event.target.value))}
        />{' '}
        %
        <button type="submit" className="btn btn-sm" disabled={busy}>
          Lock away
        </button>
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

function DropSet({ collection, set }: SetProps) {
  const { change } = useAddress()
  const { busy, problem, act } = useDoing('judging', collection.name)
  const [sure, setSure] = useState(false)
  const drop = async () => {
    const refused = (await act(() => dropSet(collection.name, set.name), { gone: set.name })) === null
    if (!refused) change({ set: null, view: null })
  }
  return (
    <>
      {sure ? (
        <button
          type="button"
          className="btn btn-sm btn-error"
          autoFocus
          disabled={busy}
          onBlur={() => setSure(false)}
          onClick={() => void drop()}
        >
          Drop {countText(set.queries)} queries and {countText(set.grades)} grades for good
        </button>
      ) : (
        <button type="button" className="btn btn-sm" onClick={() => setSure(true)}>
          Drop {set.name} …
        </button>
      )}
      {problem && <ProblemNote error={problem} />}
    </>
  )
}

function FilesOut({ collection, set }: SetProps) {
  const [form, setForm] = useState('csv')
  return (
    <label className="flex flex-wrap items-center gap-2 pb-2">
      <span className="quiet small">as</span>
      <Select
        label="Form of the files"
        className="boxed w-auto bg-transparent"
        value={form}
        choices={entriesOf(FORMS)}
        onChoose={setForm}
      />
      <a className="btn btn-sm" download href={fileOf(collection.name, set.name, 'queries', form)}>
        Queries
      </a>
      <a className="btn btn-sm" download href={fileOf(collection.name, set.name, 'judgments', form)}>
        {form === 'columns' ? 'Grades that count' : 'Judgments'}
      </a>
    </label>
  )
}

function FilesIn({ collection, set }: SetProps) {
  const { busy, problem, act } = useDoing('judging', collection.name)
  const [queries, setQueries] = useState<File | null>(null)
  const [judgments, setJudgments] = useState<File | null>(null)
  const [scale, setScale] = useState('')
  const [said, setSaid] = useState('')
  return (
    <form
      onSubmit={async (event) => {
        event.preventDefault()
        if (!queries) return
        const [q, j] = await Promise.all([queries.text(), judgments?.text() ?? null])
        const done = await act(() =>
          putFiles(collection.name, set.name, {
            queries: q,
            judgments: j,
            scale: scale.trim() || null,
            locked_share: set.locked_share,
          }),
        )
        if (done) {
          const unknown = done.unknown_records.length
          setSaid(
            `${countText(done.queries)} queries, ${countText(done.grades)} judgments, revision ${done.revision}${unknown ? `; ${countText(unknown)} records are not in the collection` : ''}`,
          )
        } else setSaid('')
      }}
    >
      <Changing>
        <h2 className="heading quiet pt-4 pb-2">In, in place of what is here</h2>
        <p className="quiet small pb-2">
          CSV, JSON Lines, or the trade’s plain columns, told by their content. Earlier revisions stay measurable.
        </p>
        <label className="block pb-2">
          <span className="quiet small block">Queries</span>
          <input
            type="file"
            required
            aria-label="Queries file"
            className="w-full bg-transparent"
            onChange={(event) => setQueries(event.target.files?.[0] ?? null)}
          />
        </label>
        <label className="block pb-2">
          <span className="quiet small block">
            Judgments, with or without the judges’ names; without a file those that are here stay
          </span>
          <input
            type="file"
            aria-label="Judgments file"
            className="w-full bg-transparent"
            onChange={(event) => setJudgments(event.target.files?.[0] ?? null)}
          />
        </label>
        <label className="block pb-3">
          <span className="quiet small block">What their grades are here, where they are not 0 to 3</span>
          <input
            dir="auto"
            aria-label="Scale"
            className="input input-sm w-full border-base-300 bg-transparent font-mono"
            placeholder="-1=0,0=0,1=1,2=2,4=3"
            value={scale}
            onChange={(event) => setScale(event.target.value)}
          />
        </label>
        <button type="submit" className="btn btn-sm" disabled={busy || !queries}>
          {busy ? 'Reading …' : 'Bring them in'}
        </button>
        {said && (
          <p role="status" className="pt-2">
            {said}
          </p>
        )}
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

// The rules of a judged set, what its grades mean, its files in and out.
import type { Collection } from '../../api/queries'
import { useRef, useState } from 'react'
import { changeRules, dropSet, fileOf, type JudgedSummary, lockAway, putFiles, type Settling } from '../../api/judging'
import { GradeRungs } from '../../parts/grade-rungs'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { countText } from '../../thinking/figures'
import { GRADE_NAMES } from '../../thinking/judging'
import { RULES } from './agreement-view'
import type { SetProps } from './set-props'
import { useDoing } from '../../shell/use-doing'

const FORMS = { csv: 'CSV', jsonl: 'JSON Lines', columns: 'plain columns' }

export function SetView({ collection, set }: SetProps) {
  const { change } = useAddress()
  const { busy, problem, act } = useDoing('judging', collection.name)
  const [meanings, setMeanings] = useState(() => [0, 1, 2, 3].map((grade) => set.meanings[grade] ?? ''))
  const [share, setShare] = useState(Math.round(set.locked_share * 100))
  const [form, setForm] = useState('csv')
  const [sure, setSure] = useState(false)
  const [settling, setSettling] = useState(set.settling)
  // One after the other: what was said last must be what is kept.
  const line = useRef<Promise<unknown>>(Promise.resolve())
  const keep = (how: Settling) => {
    line.current = line.current.then(() =>
      act(() => changeRules(collection.name, set.name, { settling: how, locked_share: set.locked_share, meanings })),
    )
  }
  return (
    <div className="grid h-full grid-cols-2 overflow-y-auto">
      <Rules
        problem={problem}
        meanings={meanings}
        onMeanings={setMeanings}
        set={set}
        keep={keep}
        settling={settling}
        onSettling={setSettling}
        act={act}
        collection={collection}
        share={share}
        onShare={setShare}
        busy={busy}
      />
      <Files
        form={form}
        onForm={setForm}
        collection={collection}
        set={set}
        sure={sure}
        busy={busy}
        onSure={setSure}
        act={act}
        change={change}
      />
    </div>
  )
}

function Rules({
  problem,
  meanings,
  onMeanings,
  set,
  keep,
  settling,
  onSettling,
  act,
  collection,
  share,
  onShare,
  busy,
}: {
  problem: null | Error
  meanings: string[]
  onMeanings: (to: string[]) => void
  set: JudgedSummary
  keep: (how: Settling) => void
  settling: 'median' | 'latest' | 'by_hand'
  onSettling: (to: 'median' | 'latest' | 'by_hand') => void
  act: <T>(
    work: () => Promise<T>,
    { then, gone }?: { then?: (done: T) => unknown; gone?: string | undefined },
  ) => Promise<T | null>
  collection: Collection
  share: number
  onShare: (to: number) => void
  busy: boolean
}) {
  return (
    <section aria-label="Rules" className="px-6 py-4">
      {problem && <ProblemNote error={problem} />}
      <h2 className="heading quiet pb-2">What the grades mean</h2>
      <p className="quiet small pb-2">
        Judges have this in view all the time. An example for each helps more than a rule.
      </p>
      {[3, 2, 1, 0].map((grade) => (
        <label key={grade} className="grid grid-cols-[20px_110px_minmax(0,1fr)] items-center gap-2 pb-2">
          <GradeRungs grade={grade} />
          <span>
            {grade} {GRADE_NAMES[grade]}
          </span>
          <textarea
            aria-label={`Meaning of grade ${grade}`}
            rows={2}
            maxLength={10_000}
            className="textarea textarea-sm w-full border-base-300 bg-transparent"
            value={meanings[grade]}
            onChange={(event) => onMeanings(meanings.map((one, i) => (i === grade ? event.target.value : one)))}
            onBlur={() => JSON.stringify(meanings) !== JSON.stringify(set.meanings) && keep(settling)}
          />
        </label>
      ))}
      <h2 className="heading quiet pt-4 pb-2">When judges differ</h2>
      {Object.entries(RULES).map(([value, said]) => (
        <RuleChoice key={value} settling={settling} value={value} onSettling={onSettling} keep={keep} said={said} />
      ))}
      <h2 className="heading quiet pt-4 pb-2">Locked away</h2>
      <p className="small pb-2">
        {countText(set.locked)} of {countText(set.queries)} queries are locked: they are measured only when somebody
        opens them, and the diary says so. More can be locked; none is opened by itself.
      </p>
      <Renaming act={act} collection={collection} set={set} share={share} onShare={onShare} busy={busy} />
    </section>
  )
}

function RuleChoice({
  settling,
  value,
  onSettling,
  keep,
  said,
}: {
  settling: 'median' | 'latest' | 'by_hand'
  value: string
  onSettling: (to: 'median' | 'latest' | 'by_hand') => void
  keep: (how: Settling) => void
  said: string
}) {
  return (
    <label className="flex items-center gap-2 py-1">
      <input
        type="radio"
        name="settling"

        checked={settling === value}
        onChange={() => {
          onSettling(value as Settling)
          keep(value as Settling)
        }}
      />
      {said}
    </label>
  )
}

function Renaming({
  act,
  collection,
  set,
  share,
  onShare,
  busy,
}: {
  act: <T>(
    work: () => Promise<T>,
    { then, gone }?: { then?: (done: T) => unknown; gone?: string | undefined },
  ) => Promise<T | null>
  collection: Collection
  set: JudgedSummary
  share: number
  onShare: (to: number) => void
  busy: boolean
}) {
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        void act(() => lockAway(collection.name, set.name, share / 100))
      }}
    >
      <input
        aria-label="Share to lock"
        type="number"
        min={0}
        max={90}
        className="input input-sm w-[80px] border-base-300 bg-transparent"
        value={share}
        onChange={(event) => onShare(Number(event.target.value))}
      />{' '}
      %
      <button type="submit" className="btn btn-sm" disabled={busy}>
        Lock away
      </button>
    </form>
  )
}

function Files({
  form,
  onForm,
  collection,
  set,
  sure,
  busy,
  onSure,
  act,
  change,
}: {
  form: string
  onForm: (to: string) => void
  collection: Collection
  set: JudgedSummary
  sure: boolean
  busy: boolean
  onSure: (to: boolean) => void
  act: <T>(
    work: () => Promise<T>,
    { then, gone }?: { then?: (done: T) => unknown; gone?: string | undefined },
  ) => Promise<T | null>
  change: ReturnType<typeof useAddress>['change']
}) {
  return (
    <section aria-label="Files" className="line-l px-6 py-4">
      <h2 className="heading quiet pb-2">Out</h2>
      <Format form={form} onForm={onForm} collection={collection} set={set} />
      <FilesIn collection={collection} set={set} />
      <h2 className="heading quiet pt-6 pb-2">Drop the set</h2>
      {sure ? (
        <button
          type="button"
          className="btn btn-sm btn-error"
          autoFocus
          disabled={busy}
          onBlur={() => onSure(false)}
          onClick={() =>
            act(() => dropSet(collection.name, set.name), { gone: set.name }).then(() =>
              change({ set: null, view: null }),
            )
          }
        >
          Drop {countText(set.queries)} queries and {countText(set.grades)} grades for good
        </button>
      ) : (
        <button type="button" className="btn btn-sm" onClick={() => onSure(true)}>
          Drop {set.name} …
        </button>
      )}
    </section>
  )
}

function Format({
  form,
  onForm,
  collection,
  set,
}: {
  form: string
  onForm: (to: string) => void
  collection: Collection
  set: JudgedSummary
}) {
  return (
    <label className="flex items-center gap-2 pb-2">
      <span className="quiet small">as</span>
      <select
        aria-label="Form of the files"
        className="boxed w-auto bg-transparent"
        value={form}
        onChange={(event) => onForm(event.target.value)}
      >
        {Object.entries(FORMS).map(([value, name]) => (
          <option key={value} value={value}>
            {name}
          </option>
        ))}
      </select>
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
    </form>
  )
}

// The diary of kept versions: what changed in each, what it did to the measure, and why it was kept.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { measured, putRankerNote, rankerDifferences, type Collection, type Ranker } from '../../api/queries'
import { Delta } from '../../parts/delta'
import { Differences, differencesText } from '../../parts/differences'
import { useAddress } from '../../shell/address'
import { useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { BASELINE_PARAMS, useSetName, type Draft } from '../../shell/use-draft'
import { MAIN_MEASURE, MEASURED } from '../../shell/use-meter'
import { measureText } from '../../thinking/figures'
import { parsedBeside } from '../../thinking/beside'
import { Changing } from '../../shell/changing'

const FIRST_SHOWN = 12

export function VersionsPanel({ collection, draft }: { collection: Collection; draft: Draft }) {
  const [all, setAll] = useState(false)
  const kept = [...draft.kept].sort((a, b) => b.created_at.localeCompare(a.created_at))
  const shown = all ? kept : kept.slice(0, FIRST_SHOWN)
  return (
    <ol className="px-4 py-1" aria-label="Kept versions">
      {shown.map((ranker) => (
        <Version
          key={`${ranker.name}:${ranker.version}`}
          collection={collection}
          ranker={ranker}
          before={draft.kept.find((one) => one.name === ranker.name && one.version === ranker.version - 1) ?? null}
          isBaseline={ranker.name === draft.baseline.name && ranker.version === draft.baseline.version}
        />
      ))}
      {kept.length > shown.length && (
        <li className="py-2">
          <button type="button" className="link" onClick={() => setAll(true)}>
            {kept.length - shown.length} older ones
          </button>
        </li>
      )}
    </ol>
  )
}

function Version({
  collection,
  ranker,
  before,
  isBaseline,
}: {
  collection: Collection
  ranker: Ranker
  before: Ranker | null
  isBaseline: boolean
}) {
  const { params, change } = useAddress()
  const set = useSetName(collection)
  const choice = { name: ranker.name, version: ranker.version }
  const choiceBefore = before && { name: before.name, version: before.version }
  const changes = useQuery({
    ...rankerDifferences(collection.name, choiceBefore ?? choice, choice),
    enabled: before !== null,
    staleTime: Infinity,
  })
  const now = useQuery({ ...measured(collection, set ?? '', choice, MEASURED), enabled: set !== null })
  const then = useQuery({
    ...measured(collection, set ?? '', choiceBefore ?? choice, MEASURED),
    enabled: set !== null && before !== null,
  })
  const value = now.data?.figures.measured.means[MAIN_MEASURE]
  const was = then.data?.figures.measured.means[MAIN_MEASURE]
  const name = `${ranker.name}:${ranker.version}`
  const beside = parsedBeside(params.get('beside'))
  return (
    <li
      className="line-b py-2"
      aria-label={`${ranker.name} ${ranker.version}`}
      aria-current={isBaseline ? 'true' : undefined}
    >
      <VersionHead ranker={ranker} value={value} was={was} before={before} />
      {before ? (
        changes.data && (
          <Differences
            all={changes.data.differences}
            heads={[`version ${before.version}`, `version ${ranker.version}`]}
          />
        )
      ) : (
        <p className="quiet small">the first version</p>
      )}
      <Note
        collection={collection}
        ranker={ranker}
        isPlain={ranker.note === '' || ranker.note === differencesText(changes.data?.differences)}
      />
      <Deeds isBaseline={isBaseline} change={change} name={name} beside={beside} />
    </li>
  )
}

// Why a version was kept, which can be said again in other words.
function Note({ collection, ranker, isPlain }: { collection: Collection; ranker: Ranker; isPlain: boolean }) {
  const held = `note ${collection.name}/${ranker.name}/${ranker.version}/`
  const [text, setText] = useHeld<string | null>(`${held}text`, null)
  const { busy, problem, act } = useDoing('rankers', collection.name)
  if (text === null) {
    return (
      <div className="small wrap-anywhere whitespace-pre-line">
        {!isPlain && `“${ranker.note}” `}
        <Changing>
          <button type="button" className="link" onClick={() => setText(ranker.note)}>
            {isPlain ? 'say why' : 'in other words'}
          </button>
        </Changing>
      </div>
    )
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        void act(() => putRankerNote(collection.name, ranker.name, ranker.version, text.trim()), {
          then: () => setText(null),
        })
      }}
    >
      <textarea
        dir="auto"
        aria-label={`Why ${ranker.name} ${ranker.version} was kept`}
        autoFocus
        rows={3}
        maxLength={2000}
        className="textarea textarea-sm w-full border-base-300 bg-transparent"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && setText(null)}
      />
      <p className="small flex gap-3">
        <button type="submit" className="link font-semibold" disabled={busy}>
          say so
        </button>
        <button type="button" className="link" onClick={() => setText(null)}>
          leave it
        </button>
      </p>
      {problem && <p className="loss small">{problem.message}</p>}
    </form>
  )
}

function VersionHead({
  ranker,
  value,
  was,
  before,
}: {
  ranker: Ranker
  value: number | undefined
  was: number | undefined
  before: Ranker | null
}) {
  return (
    <p className="flex items-baseline gap-2">
      <b className="font-semibold">
        {ranker.name} {ranker.version}
      </b>
      <span className="quiet small flex-1" title={ranker.created_at}>
        {ranker.created_at.slice(0, 16).replace('T', ' ')}
        {ranker.by_person && `, ${ranker.by_person}`}
      </span>
      {value !== undefined && <span className="figure">{measureText(value)}</span>}
      {value !== undefined && was !== undefined && before && <Delta value={value - was} />}
    </p>
  )
}

function Deeds({
  isBaseline,
  change,
  name,
  beside,
}: {
  isBaseline: boolean
  change: ReturnType<typeof useAddress>['change']
  name: string
  beside: string[]
}) {
  return (
    <p className="small flex gap-3 pt-1">
      {isBaseline ? (
        <span className="font-semibold text-primary">baseline</span>
      ) : (
        <button type="button" className="link" onClick={() => change({ ranker: name, ...BASELINE_PARAMS })}>
          set as baseline
        </button>
      )}
      {beside.includes(name) ? (
        <button
          type="button"
          className="link"
          onClick={() => change({ beside: beside.filter((one) => one !== name).join(' ') || null })}
        >
          take from beside
        </button>
      ) : (
        <button
          type="button"
          className="link"
          onClick={() => change({ beside: [...beside, name].slice(-3).join(' ') })}
        >
          put its list beside
        </button>
      )}
    </p>
  )
}

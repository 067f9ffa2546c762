// Word lists: named, in versions, edited as CSV, taken from files and thesauri.
import { useQuery } from '@tanstack/react-query'
import { useRef, useState, type RefObject } from 'react'
import { putWordList, readThesaurus, wordList, wordListFile, wordLists, type WordList } from '../../api/chains'
import type { Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { countText } from '../../thinking/figures'
import type { Draft } from '../../shell/use-draft'
import { letGo, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { useUndo } from '../../shell/use-undo'
import { fieldsBehind, withPart } from '../../thinking/reads'
import { Changing } from '../../shell/changing'

const HEADS: Record<WordList['kind'], string> = {
  words: 'word\n',
  replacements: 'from,to\n',
  synonyms: 'words,means,way\n',
}
const MADE_FOR: Record<WordList['kind'], string> = {
  words: 'stopwords, as_is, decompound',
  replacements: 'swap, lemmas',
  synonyms: 'synonyms',
}

export function WordListsPanel({ collection, draft }: { collection: Collection; draft: Draft }) {
  const known = useQuery(wordLists(collection.name))
  const held = `word lists ${collection.name}/`
  const [open, setOpen] = useHeld<string | null>(`${held}open`, null)
  const [making, setMaking] = useHeld<WordList['kind'] | null>(`${held}making`, null)
  if (making)
    return (
      <ListEditor
        key={making}
        collection={collection}
        draft={draft}
        start={HEADS[making]}
        onClose={() => setMaking(null)}
      />
    )
  if (open !== null)
    return <OpenList key={open} collection={collection} draft={draft} name={open} onClose={() => setOpen(null)} />
  return (
    <section aria-label="Word lists" className="px-4 py-3">
      <h2 className="heading quiet pb-1">Word lists</h2>
      {known.isError && <ProblemNote error={known.error} />}
      {known.data?.length === 0 && <p className="quiet">None yet. Stages read a list as @name.</p>}
      <ul>
        {known.data?.map((list) => (
          <li key={list.name} className="pb-1.5">
            <button
              type="button"
              className="link font-mono text-[13px] font-semibold"
              onClick={() => setOpen(list.name)}
            >
              @{list.name}
            </button>
            <p className="small quiet">
              {countText(list.entries)} {list.kind}, version {list.version}
              {list.used_by.length > 0 && `; read by ${list.used_by.map((name) => `@${name}`).join(', ')}`}
            </p>
          </li>
        ))}
      </ul>
      <h3 className="heading quiet pt-3 pb-1">New list of</h3>
      <Changing>
        {(Object.keys(HEADS) as WordList['kind'][]).map((kind) => (
          <p key={kind}>
            <button type="button" className="link" onClick={() => setMaking(kind)}>
              {kind}
            </button>{' '}
            <span className="quiet small">for {MADE_FOR[kind]}</span>
          </p>
        ))}
      </Changing>
    </section>
  )
}

function OpenList(props: { collection: Collection; draft: Draft; name: string; onClose: () => void }) {
  const kept = useQuery(wordList(props.collection.name, props.name))
  if (kept.isError) return <ProblemNote error={kept.error} />
  if (!kept.data) return <p className="quiet p-4">Fetching the list …</p>
  return (
    <ListEditor
      key={kept.data.name}
      collection={props.collection}
      draft={props.draft}
      name={kept.data.name}
      version={kept.data.version}
      start={kept.data.csv}
      onClose={props.onClose}
    />
  )
}

// What a file says, as CSV: a list as it is, a thesaurus by its rules.
async function entriesOf(file: File): Promise<{ csv: string; said: string }> {
  if (!/\.(ttl|nt|n3|rdf|xml|owl)$/i.test(file.name))
    return { csv: await file.text(), said: `${file.name} is read; keep it to use it.` }
  const { csv, rules } = await readThesaurus(file, '')
  return { csv, said: `${countText(rules)} rules from ${file.name}; keep them to use them.` }
}

function ListEditor(props: {
  collection: Collection
  draft: Draft
  name?: string
  version?: number
  start: string
  onClose: () => void
}) {
  const { problem, act } = useDoing('everything', props.collection.name)
  const reading = useDoing(null)
  const held = `word list ${props.collection.name}/${props.name ?? props.start}/`
  const [name, setName] = useHeld(`${held}name`, props.name ?? '')
  const [text, setText] = useHeld(`${held}text`, props.start)
  const [said, setSaid] = useState('')
  const file = useRef<HTMLInputElement>(null)
  // Kept here, so that who still reads an older version is told.
  const [newest, setNewest] = useState<number | null>(null)
  const changed = text !== props.start
  const keep = async () => {
    setSaid('')
    // Whatever was read with the list is read anew.
    const kept = await act(() => putWordList(props.collection.name, name.trim().replace(/^@/, ''), text), {
      then: (kept) => {
        setSaid(`Kept: @${kept.name}, version ${kept.version}.`)
        setNewest(kept.version)
        if (!props.name) props.onClose()
      },
    })
    if (kept) letGo(held)
  }
  const take = (chosen: File) =>
    reading.act(() => entriesOf(chosen), {
      then: ({ csv, said }) => {
        setText(csv)
        setSaid(said)
      },
    })
  return (
    <section aria-label="Word list" className="flex h-full min-h-[420px] flex-col px-4 py-3">
      <ListHead name={props.name} version={props.version} onName={setName} onClose={props.onClose} />
      <textarea
        dir="auto"
        aria-label="Entries as CSV"
        className="min-h-[200px] w-full flex-1 resize-none border border-base-300 bg-transparent p-2 font-mono text-[12px] leading-[18px]"
        spellCheck={false}
        wrap="off"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      {problem && <ProblemNote error={problem} />}
      {reading.problem && <ProblemNote error={reading.problem} />}
      {said && (
        <p role="status" className="small pt-1">
          {said}
        </p>
      )}
      {newest !== null && props.name && !changed && (
        <StillOlder draft={props.draft} name={props.name} version={newest} />
      )}
      <ListFoot
        changed={changed}
        name={name}
        onKeep={keep}
        file={file}
        collection={props.collection}
        onText={setText}
        start={props.start}
        onTake={take}
      />
    </section>
  )
}

// Who reads an older version of a list that was just kept; the draft takes the new one by Enter.
function StillOlder({ draft, name, version }: { draft: Draft; name: string; version: number }) {
  const undo = useUndo(draft)
  const part = { kind: 'word list' as const, name, version }
  const ofDraft = fieldsBehind(draft.document, draft.baseline, part)
  const rankers = draft.kept
    .filter((one, i, all) => all.findIndex((other) => other.name === one.name) === i)
    .map((one) => ({ one, fields: fieldsBehind(one.filled_in, one, part) }))
    .filter(({ fields }) => fields.length > 0)
  if (ofDraft.length === 0 && rankers.length === 0) return null
  return (
    <div className="small pt-1">
      {rankers.length > 0 && (
        <p>
          An older version is still read by{' '}
          {rankers
            .map(({ one, fields }) => `${one.name} ${one.version} (${[...new Set(fields)].join(', ')})`)
            .join('; ')}
          .
        </p>
      )}
      {ofDraft.length > 0 && (
        <p>
          The draft reads one too.{' '}
          <button
            type="button"
            autoFocus
            className="link font-semibold"
            onClick={() => undo.commit(withPart(draft.document, part))}
          >
            Take version {version} into the draft
          </button>
        </p>
      )}
    </div>
  )
}

function ListHead({
  name,
  version,
  onName,
  onClose,
}: {
  name: string | undefined
  version: number | undefined
  onName: (to: string) => void
  onClose: () => void
}) {
  return (
    <div className="flex items-baseline gap-2 pb-2">
      {name ? (
        <h2 className="min-w-0 flex-1 truncate font-mono font-semibold">
          @{name} <span className="quiet font-normal">{version}</span>
        </h2>
      ) : (
        <input
          dir="auto"
          aria-label="Name of the list"
          autoFocus
          placeholder="name"
          className="min-w-0 flex-1 border-b border-base-300 bg-transparent font-mono"
          value={name}
          maxLength={63}
          onChange={(event) => onName(event.target.value)}
        />
      )}
      <button type="button" className="link small" onClick={onClose}>
        all lists
      </button>
    </div>
  )
}

function ListFoot({
  changed,
  name,
  onKeep,
  file,
  collection,
  onText,
  start,
  onTake,
}: {
  changed: boolean
  name: string
  onKeep: () => unknown
  file: RefObject<HTMLInputElement | null>
  collection: Collection
  onText: (to: string) => void
  start: string
  onTake: (chosen: File) => unknown
}) {
  return (
    <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1 pt-2">
      <Changing>
        <button
          type="button"
          className="btn btn-sm"
          disabled={!changed || name.trim() === ''}
          onClick={() => void onKeep()}
        >
          Keep
        </button>
        <button type="button" className="link small" onClick={() => file.current?.click()}>
          from a file
        </button>
      </Changing>
      {name && (
        <a className="link small" href={wordListFile(collection.name, name)} download>
          as CSV
        </a>
      )}
      {changed && (
        <button type="button" className="link small" onClick={() => onText(start)}>
          as it was
        </button>
      )}
      <input
        ref={file}
        type="file"
        className="hidden"
        aria-label="A CSV file or a SKOS thesaurus"
        accept=".csv,.txt,.ttl,.nt,.n3,.rdf,.xml,.owl"
        onChange={(event) => {
          const chosen = event.target.files?.[0]
          if (chosen) void onTake(chosen)
          event.target.value = ''
        }}
      />
    </div>
  )
}

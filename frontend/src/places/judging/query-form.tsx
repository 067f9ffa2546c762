// One query of a set, in a form: kept when it is submitted; its records to be graded are in Ranking.
import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import { addQuery, dropQuery, putQuery, type JudgedSummary, type ListedQuery } from '../../api/judging'
import type { Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { carried, useAddress } from '../../shell/address'
import { jsonFilterExample } from '../../thinking/examples'
import { queryRequest, queryText, type QueryText } from '../../thinking/set-queries'
import { letGo, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { askedAs } from '../../thinking/judging'
import { Changing } from '../../shell/changing'

// asked: whether somebody wants to add a query, and begins to write at once.
const INPUT = 'input input-sm w-full border-base-300 bg-transparent'

export function QueryForm(props: {
  collection: Collection
  set: JudgedSummary
  query: ListedQuery | null
  asked?: boolean
}) {
  const { collection, set, query } = props
  const { params, change } = useAddress()
  const { busy, problem, act } = useDoing('judging', collection.name)
  const held = `query ${collection.name}/${set.name}/${query?.query_id ?? ''}/`
  const [text, setText] = useHeld<QueryText>(`${held}text`, queryText(query))
  const keep = async () => {
    const kept = await act(async () => {
      const kept = await (query
        ? putQuery(collection.name, set.name, query.query_id, queryRequest(text, false))
        : addQuery(collection.name, set.name, queryRequest(text, true)))
      // Before the list is fetched anew: whoever has gone on by then is left where they are.
      change({ query: kept.query_id, new: null })
      return kept
    })
    if (kept) letGo(held)
  }
  const drop = async (gone: ListedQuery) => {
    const refused = (await act(() => dropQuery(collection.name, set.name, gone.query_id))) === null
    if (!refused) change({ query: null })
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        void keep()
      }}
    >
      <Heading query={query} collection={collection} params={params} />
      <Changing>
        <TextFields
          text={text}
          onText={setText}
          asked={props.asked === true}
          filters={jsonFilterExample(collection.fields)}
        />
        <Flags text={text} onText={setText} query={query} set={set} />
        <Deeds busy={busy} query={query} text={text} onText={setText} onDrop={drop} />
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

function TextFields(props: {
  text: QueryText
  onText: (text: QueryText) => void
  asked: boolean
  // An example of filters.
  filters: string
}) {
  const { text, onText, asked, filters } = props
  const first = useRef<HTMLInputElement>(null)
  useEffect(() => {
    if (asked) first.current?.focus()
  }, [asked])
  const field = (name: keyof QueryText) => ({
    value: String(text[name]),
    onChange: (event: { target: { value: string } }) => onText({ ...text, [name]: event.target.value }),
  })
  return (
    <>
      <Label name="Query, as a visitor types it">
        <input
          aria-label="Query text"
          dir="auto"
          className={INPUT}
          required
          maxLength={10_000}
          ref={first}
          {...field('query')}
        />
      </Label>
      <Label name="Need: what is wanted, in words that a judge understands">
        <textarea
          dir="auto"
          aria-label="Need"
          rows={3}
          maxLength={10_000}
          className="textarea textarea-sm w-full border-base-300 bg-transparent"
          {...field('need')}
        />
      </Label>
      <Label name="Tags, with commas between">
        <input dir="auto" aria-label="Tags" className={INPUT} {...field('tags')} />
      </Label>
      <div className="grid grid-cols-2 gap-3">
        <Label name="How often it was asked">
          <input aria-label="Asked" type="number" min={0} className={INPUT} {...field('asked')} />
        </Label>
        <Label name="Language, guessed if empty">
          <input dir="auto" aria-label="Language" className={INPUT} maxLength={40} {...field('language')} />
        </Label>
      </div>
      <Label name="Filters that the visitor had set, as JSON">
        <input
          dir="auto"
          aria-label="Filters"
          className={`${INPUT} font-mono`}
          placeholder={filters}
          {...field('filters')}
        />
      </Label>
    </>
  )
}

function Flags(props: {
  text: QueryText
  onText: (text: QueryText) => void
  query: ListedQuery | null
  set: JudgedSummary
}) {
  const { text, onText, query, set } = props
  const flag = (name: 'nothing_to_find' | 'locked') => ({
    checked: text[name],
    onChange: (event: { target: { checked: boolean } }) => onText({ ...text, [name]: event.target.checked }),
  })
  return (
    <>
      <label className="flex items-center gap-2 py-1">
        <input type="checkbox" {...flag('nothing_to_find')} /> nothing to find: an empty list is right
      </label>
      {query ? (
        <label className="flex items-center gap-2 py-1">
          <input type="checkbox" {...flag('locked')} /> locked away from everyday looking
        </label>
      ) : (
        set.locked_share > 0 && (
          <p className="quiet small">
            Of new queries {Math.round(100 * set.locked_share)} % are locked away, chosen at random.
          </p>
        )
      )}
      {query && !query.locked && text.locked && (
        <p className="quiet small">It was looked at before: locked now, it is not as fresh as others.</p>
      )}
    </>
  )
}

function Heading({
  query,
  collection,
  params,
}: {
  query: ListedQuery | null
  collection: Collection
  params: URLSearchParams
}) {
  return (
    <h2 className="heading quiet flex justify-between pb-2">
      {query ? <span>Query {query.query_id}</span> : <span>A new query</span>}
      {query && (
        <Link className="link font-normal" to={`/${collection.name}/ranking${carried(params, askedAs(query))}`}>
          open in Ranking
        </Link>
      )}
    </h2>
  )
}

function Deeds(props: {
  busy: boolean
  query: ListedQuery | null
  text: QueryText
  onText: (text: QueryText) => void
  onDrop: (query: ListedQuery) => Promise<void>
}) {
  const { busy, query } = props
  const [sure, setSure] = useState(false)
  const changed = query !== null && JSON.stringify(queryText(query)) !== JSON.stringify(props.text)
  return (
    <div className="flex items-center gap-2 pt-3">
      <button type="submit" className="btn btn-sm btn-primary" disabled={busy || (query !== null && !changed)}>
        {query ? 'Keep' : 'Add'}
      </button>
      {changed && (
        <button type="button" className="btn btn-sm btn-ghost" onClick={() => props.onText(queryText(query))}>
          Undo
        </button>
      )}
      <span className="flex-1" />
      {query &&
        (sure ? (
          <button
            type="button"
            className="btn btn-sm btn-error"
            autoFocus
            disabled={busy}
            onBlur={() => setSure(false)}
            onClick={() => void props.onDrop(query)}
          >
            Take out, with {query.graded} grades
          </button>
        ) : (
          <button type="button" className="btn btn-sm btn-ghost" onClick={() => setSure(true)}>
            Take out
          </button>
        ))}
    </div>
  )
}

function Label({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <label className="block pb-2">
      <span className="quiet small block">{name}</span>
      {children}
    </label>
  )
}

// Chains: the record's text comes down from the top, the query's text comes up from the bottom, each
// through its own chain, and their terms meet at the quay line.
import { useQuery } from '@tanstack/react-query'
import { useCallback, useDeferredValue, useMemo, useRef, useState } from 'react'
import { meeting, record, search, type Collection, type RankerChoice } from '../../api/queries'
import { MarkedText } from '../../parts/marked-text'
import { Empty, Loading, ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { useDraft } from '../../shell/use-draft'
import { berths, grid } from '../../thinking/columns'
import { pieces } from '../../thinking/marks'
import { mainField, shownFields, titleOf, valueText } from '../../thinking/records'
import { MeetingGrid, type Lit } from './meeting-grid'
import { NotationEditor } from './notation-editor'
import { SavedChains } from './saved-chains'
import { StageList } from './stage-list'

// What is read at most of one text: a screen's worth, and quick at every key press.
const LONGEST_TEXT = 20_000

export function Chains({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const { draft } = useDraft(collection)
  const fields = collection.fields.filter((field) => !field.is_key)
  const shown = shownFields(collection)
  const field = params.get('field') ?? mainField(collection)
  const usual = draft?.baseline.filled_in.readings.find((reading) => reading.field === field) ?? draft?.baseline.filled_in.readings[0]
  const recordChain = params.get('rc') ?? usual?.chain ?? 'words > lower'
  const ownQueryChain = params.get('qc') ?? usual?.query_chain ?? ''
  const queryChain = ownQueryChain.trim() === '' ? recordChain : ownQueryChain

  const query = params.get('q') ?? ''
  const key = useShownKey(collection, draft?.choice ?? null, query)
  const kept = useQuery({ ...record(collection.name, key.key), enabled: !key.pending })
  const [edited, setEdited] = useState<string | null>(null)
  const fromRecord = valueText(kept.data?.field_values[field]).slice(0, LONGEST_TEXT)
  const text = edited ?? fromRecord

  const ask = useDeferredValue(
    useMemo(() => ({ record_chain: recordChain, query_chain: queryChain, text, query }), [recordChain, queryChain, text, query]),
  )
  const met = useQuery({ ...meeting(collection.name, ask), enabled: kept.isSuccess || edited !== null })
  const recordEditor = useRef<HTMLTextAreaElement>(null)
  const [lit, setLit] = useState<Lit | null>(null)

  const goTo = useCallback(
    (key: string | null | undefined) => {
      if (!key) return
      setEdited(null)
      change({ key })
    },
    [change],
  )
  const handle = useCallback(
    (event: KeyboardEvent) => {
      if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
      if (event.key === 'n') goTo(kept.data?.key_after)
      else if (event.key === 'p') goTo(kept.data?.key_before)
      else if (event.key === 'e') {
        event.preventDefault()
        recordEditor.current?.focus()
      }
    },
    [goTo, kept.data],
  )
  useKeys(handle)

  const layout = useMemo(() => {
    if (!met.data) return null
    const recordGrid = grid(met.data.record_stages)
    const queryGrid = grid(met.data.query_stages)
    return { recordGrid, queryGrid, berths: berths(recordGrid, queryGrid, met.data.moorings) }
  }, [met.data])

  if (kept.isError && edited === null) {
    return kept.error.message.includes('no records') ? (
      <Empty title="This collection has no records yet">
        Load some: <code>./paleharbor load FILE --collection {collection.name} --key FIELD</code>
      </Empty>
    ) : (
      <ProblemNote error={kept.error} />
    )
  }

  // The letters of the record's tokens that moored, or of the one that is lit.
  const moored = new Set(met.data?.moorings.flatMap((mooring) => mooring.record_tokens) ?? [])
  const marked =
    layout?.recordGrid.columns.filter((column, i) =>
      lit === null ? column.finals.some((final) => moored.has(final)) : lit.record.has(i),
    ) ?? []
  const stretches = marked.map((column) => [column.start, column.end] as const)

  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_248px]">
      <section aria-label="Chains" className="flex min-h-0 flex-col">
        <div className="line-b flex items-baseline gap-4 px-4 py-2">
          <label className="flex items-baseline gap-2">
            <span className="quiet small">Field</span>
            <select
              aria-label="Field"
              className="bg-transparent font-semibold"
              value={field}
              onChange={(event) => {
                setEdited(null)
                change({ field: event.target.value, rc: null, qc: null })
              }}
            >
              {fields.map((one) => (
                <option key={one.name}>{one.name}</option>
              ))}
            </select>
          </label>
          <span className="quiet small">Record</span>
          <span className="-ml-2 flex items-baseline gap-1">
            <button type="button" aria-label="Record before" title="Record before (p)" className="btn btn-ghost btn-xs px-1.5" disabled={!kept.data?.key_before} onClick={() => goTo(kept.data?.key_before)}>
              ←
            </button>
            <b className="font-mono text-[14px] font-semibold">{kept.data?.key}</b>
            <button type="button" aria-label="Next record" title="Next record (n)" className="btn btn-ghost btn-xs px-1.5" disabled={!kept.data?.key_after} onClick={() => goTo(kept.data?.key_after)}>
              →
            </button>
          </span>
          <span className="quiet min-w-0 flex-1 truncate">{field === shown.title || !kept.data ? '' : titleOf(shown, '', kept.data.field_values)}</span>
          <button type="button" className="btn btn-ghost btn-xs font-normal" onClick={() => setEdited(edited === null ? text : null)}>
            {edited === null ? 'Type a text of your own' : "Back to the record's text"}
          </button>
        </div>
        <div className="line-b px-4 py-2">
          {edited === null ? (
            <p aria-label="The record's text" className="max-h-[84px] overflow-y-auto whitespace-pre-line wrap-anywhere">
              {text === '' ? <span className="quiet">This record has no {field}.</span> : <MarkedText pieces={pieces(text, stretches)} />}
            </p>
          ) : (
            <textarea
              aria-label="A text of your own"
              className="h-[84px] w-full resize-none bg-transparent"
              maxLength={LONGEST_TEXT}
              value={edited}
              autoFocus
              onChange={(event) => setEdited(event.target.value)}
            />
          )}
        </div>
        <NotationEditor
          ref={recordEditor}
          label="Record chain"
          value={recordChain}
          problem={met.data?.record_problem ?? null}
          onChange={(notation) => change({ rc: notation })}
          after={<SavedChains collection={collection} notation={recordChain} onLoad={(notation) => change({ rc: notation })} />}
        />
        <div className="line-b min-h-0 flex-1 overflow-auto">
          {met.isError ? (
            <ProblemNote error={met.error} />
          ) : met.data && layout ? (
            <MeetingGrid meeting={met.data} layout={layout} lit={lit} onLit={setLit} />
          ) : (
            <Loading what="the trace" />
          )}
        </div>
        <NotationEditor
          label="Query chain"
          value={ownQueryChain}
          placeholder="the same as the record chain"
          problem={ownQueryChain.trim() === '' ? null : (met.data?.query_problem ?? null)}
          onChange={(notation) => change({ qc: notation === '' ? null : notation })}
        />
        <p className="px-4 pb-3">
          <span className="quiet small inline-block w-[104px]">Query</span>
          {query === '' ? <span className="quiet">type one above ( / )</span> : <span className="wrap-anywhere">{query}</span>}
        </p>
      </section>
      <StageList />
    </div>
  )
}

// The record in the address; without one, the query's best result, so that two texts meet that should.
function useShownKey(collection: Collection, choice: RankerChoice | null, query: string) {
  const { params } = useAddress()
  const named = params.get('key')
  const asks = named === null && query.trim() !== '' && choice !== null
  const best = useQuery({ ...search(collection.name, query, choice ?? {}, 1), enabled: asks })
  return { key: named ?? best.data?.results[0]?.key ?? null, pending: asks && best.isPending }
}

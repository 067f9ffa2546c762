// Chains: the record's text comes down from the top, the query's text comes up from the bottom, each
// through its own chain, and their terms meet at the quay line.
import { useQuery } from '@tanstack/react-query'
import { useCallback, useDeferredValue, useMemo, useRef, useState } from 'react'
import { meeting, record, search, type Collection, type RankerChoice } from '../../api/queries'
import { Empty, Loading, ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { useDraft, type Draft } from '../../shell/use-draft'
import { added, fits } from '../../thinking/cards'
import { berths, grid } from '../../thinking/columns'
import { mainField, shownFields, titleOf, valueText } from '../../thinking/records'
import { Aside } from './aside'
import { ChainEditor } from './chain-editor'
import type { Mending } from './doctor'
import { MeetingGrid, type Lit } from './meeting-grid'
import { RecordText } from './record-text'
import { SavedChains } from './saved-chains'
import { SideBySide } from './side-by-side'
import type { StageInfo } from './stage-list'
import { TextBar } from './text-bar'
import { useChains } from './use-chains'

// What is read at most of one text: a screen's worth, and quick at every key press.
const LONGEST_TEXT = 20_000
// A query is at most so long; side by side the text goes through both chains.
const LONGEST_BESIDE = 10_000

export function Chains({ collection }: { collection: Collection }) {
  const { draft, error, pending } = useDraft(collection)
  if (error) return <ProblemNote error={error} />
  // The chains in view are the draft's: shown before, others would flash by.
  if (pending) return <Loading what="the chains" />
  return <Place collection={collection} draft={draft} />
}

function Place({ collection, draft }: { collection: Collection; draft: Draft | null }) {
  const { params, change } = useAddress()
  const shown = shownFields(collection)
  const field = params.get('field') ?? mainField(collection)
  const readings = draft?.document.readings ?? []
  const usual = readings.find((reading) => reading.field === field) ?? readings[0]
  const written = (chain: unknown, otherwise: string) => (typeof chain === 'string' ? chain : otherwise)
  const chains = useChains({ record: written(usual?.chain, 'words > lower'), query: written(usual?.query_chain, '') })

  const query = params.get('q') ?? ''
  const key = useShownKey(collection, draft?.choice ?? null, query)
  const kept = useQuery({ ...record(collection.name, key.key), enabled: !key.pending })
  const [edited, setEdited] = useState<string | null>(null)
  const fromRecord = valueText(kept.data?.field_values[field]).slice(0, LONGEST_TEXT)
  const text = edited ?? fromRecord

  const asked = useMemo(() => {
    const record = { record_chain: chains.record, record_off: chains.recordOff, text }
    if (chains.beside === null) return { ...record, query_chain: chains.query, query_off: chains.queryOff, query }
    return { ...record, query_chain: chains.beside, query_off: chains.besideOff, query: text.slice(0, LONGEST_BESIDE) }
  }, [chains, text, query])
  const met = useQuery({
    ...meeting(collection.name, useDeferredValue(asked)),
    enabled: kept.isSuccess || edited !== null,
  })
  const recordEditor = useRef<HTMLTextAreaElement>(null)
  const otherEditor = useRef<HTMLTextAreaElement>(null)
  const [lit, setLit] = useState<Lit | null>(null)
  const firstMend = useRef<Mending | null>(null)
  const rememberMend = useCallback((mend: Mending | null) => void (firstMend.current = mend), [])
  const mend = (by: Mending) => chains.setBoth(by.record_chain ?? null, by.query_chain ?? null)
  const [samples, setSamples] = useState(false)

  const goTo = (next: string | null | undefined) => {
    if (!next) return
    setEdited(null)
    change({ key: next })
  }
  const compare = () => chains.setBeside(chains.beside === null ? chains.record : null)
  const handle = (event: KeyboardEvent) => {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') {
      event.preventDefault()
      if (event.shiftKey) chains.redo()
      else chains.undo()
      return
    }
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
    const acts: Record<string, () => void> = {
      n: () => goTo(kept.data?.key_after),
      p: () => goTo(kept.data?.key_before),
      e: () => recordEditor.current?.focus(),
      w: () => otherEditor.current?.focus(),
      c: () => document.querySelector<HTMLElement>('[data-card]')?.focus(),
      m: () => firstMend.current && mend(firstMend.current),
      b: compare,
      s: () => setSamples(true),
    }
    const act = acts[event.key]
    if (!act) return
    event.preventDefault()
    act()
  }
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
      <>
        <ProblemNote error={kept.error} />
        <button type="button" className="link ml-8" onClick={() => change({ key: null })}>
          Look at another record
        </button>
      </>
    )
  }

  const isBeside = chains.beside !== null
  const readable = met.data !== undefined && !met.data.record_problem && (isBeside || !met.data.query_problem)
  const addStage = (stage: StageInfo) => {
    const known = met.data?.record_calls ?? []
    const needs = stage.parameters.some((parameter) => parameter.default === null)
    chains.setRecord(
      added(chains.record, fits(chains.record, known) ? known : [], needs ? `${stage.name}()` : stage.name, stage.kind),
      chains.recordOff,
    )
    recordEditor.current?.focus()
  }
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_320px]">
      <section aria-label="Chains" className="flex min-h-0 flex-col">
        <TextBar
          collection={collection}
          field={field}
          onField={(next) => {
            setEdited(null)
            change({ field: next, rc: null, ro: null, qc: null, qo: null })
          }}
          record={kept.data ?? null}
          title={field === shown.title || !kept.data ? '' : titleOf(shown, '', kept.data.field_values)}
          onKey={goTo}
          samples={samples}
          onSamples={setSamples}
          own={edited !== null}
          onOwn={() => setEdited(edited === null ? text : null)}
          beside={isBeside}
          onBeside={compare}
        />
        <RecordText
          field={field}
          text={text}
          edited={edited}
          onEdit={setEdited}
          longest={LONGEST_TEXT}
          layout={layout}
          lit={lit}
          meeting={isBeside ? null : (met.data ?? null)}
        />
        <ChainEditor
          ref={recordEditor}
          collection={collection}
          label={isBeside ? 'First chain' : 'Record chain'}
          value={chains.record}
          off={chains.recordOff}
          calls={met.data?.record_calls ?? []}
          problem={met.data?.record_problem ?? null}
          onChange={chains.setRecord}
          after={<SavedChains collection={collection} notation={chains.record} onLoad={chains.setRecord} />}
        />
        <div className="line-b min-h-0 flex-1 overflow-auto">
          {met.isError ? (
            <ProblemNote error={met.error} />
          ) : !met.data || !layout ? (
            <Loading what="the trace" />
          ) : isBeside ? (
            <SideBySide meeting={met.data} text={text} />
          ) : (
            <MeetingGrid meeting={met.data} layout={layout} lit={lit} onLit={setLit} />
          )}
        </div>
        {isBeside ? (
          <ChainEditor
            ref={otherEditor}
            collection={collection}
            label="Second chain"
            value={chains.beside ?? ''}
            off={chains.besideOff}
            calls={met.data?.query_calls ?? []}
            problem={met.data?.query_problem ?? null}
            onChange={chains.setBeside}
            after={<SavedChains collection={collection} notation={chains.beside ?? ''} onLoad={chains.setBeside} />}
          />
        ) : (
          <ChainEditor
            ref={otherEditor}
            collection={collection}
            label="Query chain"
            value={chains.ownQuery}
            off={chains.queryOff}
            placeholder="the same as the record chain"
            calls={chains.ownQuery.trim() === '' ? [] : (met.data?.query_calls ?? [])}
            problem={chains.ownQuery.trim() === '' ? null : (met.data?.query_problem ?? null)}
            onChange={chains.setQuery}
          />
        )}
        {!isBeside && (
          <p className="px-4 py-2">
            <span className="quiet small inline-block w-[104px]">Query</span>
            {query === '' ? (
              <span className="quiet">type one above ( / )</span>
            ) : (
              <span className="wrap-anywhere">{query}</span>
            )}
          </p>
        )}
      </section>
      {draft ? (
        <Aside
          collection={collection}
          draft={draft}
          field={field}
          query={query}
          chains={chains}
          readable={readable}
          onMend={mend}
          onAdd={addStage}
          onWord={(word) => change({ q: word, key: null })}
          onFindings={rememberMend}
        />
      ) : (
        <Empty title="No ranker yet">Keep one first: its readings say which fields are read through chains.</Empty>
      )}
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

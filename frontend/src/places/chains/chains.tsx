// Chains: the record's text comes down from the top, the query's text comes up from the bottom, each
// through its own chain, and their terms meet at the quay line.
import { useCallback, useRef, useState, type Ref } from 'react'
import type { Collection } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { Empty, Loading, ProblemNote } from '../../parts/notes'
import type { CodeHandle } from '../../parts/code-box'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { useDraft, type Draft } from '../../shell/use-draft'
import { added, fits, writtenOut, type Call } from '../../thinking/cards'
import { shownFields, titleOf } from '../../thinking/records'
import { SidePane } from '../../parts/side-pane'
import { Aside } from './aside'
import { ChainEditor } from './chain-editor'
import type { Mending } from './doctor'
import { MeetingGrid, type Lit } from './meeting-grid'
import { RecordText } from './record-text'
import { SavedChains } from './saved-chains'
import { SideBySide } from './side-by-side'
import type { StageInfo } from './stage-list'
import { TextBar } from './text-bar'
import { LONGEST_TEXT, useMeeting, type MeetingShown } from './use-meeting'

export function Chains({ collection }: { collection: Collection }) {
  const { draft, error, pending } = useDraft(collection)
  if (error) return <ProblemNote error={error} />
  // The chains in view are the draft's: shown before, others would flash by.
  if (pending) return <Loading what="the chains" />
  return <Place collection={collection} draft={draft} />
}

function Place({ collection, draft }: { collection: Collection; draft: Draft | null }) {
  const { change } = useAddress()
  const shown = useMeeting(collection, draft)
  const { field, chains, query, kept, edited, setEdited, text, met, layout, isBeside } = shown
  const recordEditor = useRef<CodeHandle>(null)
  const otherEditor = useRef<CodeHandle>(null)
  const [lit, setLit] = useState<Lit | null>(null)
  const firstMend = useRef<Mending | null>(null)
  const rememberMend = useCallback((mend: Mending | null) => void (firstMend.current = mend), [])
  const mend = (by: Mending) => chains.setBoth(by.record_chain ?? null, by.query_chain ?? null)
  const [samples, setSamples] = useState(false)
  useChainKeys(shown, {
    e: () => recordEditor.current?.focus(),
    w: () => otherEditor.current?.focus(),
    m: () => firstMend.current && mend(firstMend.current),
    s: () => setSamples(true),
  })
  if (kept.isError && edited === null) return <NoRecord collection={collection} error={kept.error} />
  return (
    <div className="panes grid h-full grid-cols-[minmax(0,1fr)_320px]">
      <section aria-label="Chains" className="flex min-h-0 flex-col">
        <RecordBar collection={collection} shown={shown} samples={samples} onSamples={setSamples} />
        <RecordText
          field={field}
          pending={kept.isPending}
          text={text}
          edited={edited}
          onEdit={setEdited}
          longest={LONGEST_TEXT}
          layout={layout}
          lit={lit}
          meeting={isBeside ? null : (met.data ?? null)}
        />
        <ChainEditor
          handle={recordEditor}
          collection={collection}
          label={isBeside ? 'First chain' : 'Record chain'}
          value={chains.record}
          off={chains.recordOff}
          calls={met.data?.record_calls ?? []}
          problem={met.data?.record_problem ?? null}
          onChange={chains.setRecord}
          after={<SavedChains collection={collection} notation={chains.record} onLoad={chains.setRecord} />}
        />
        <Meeting shown={shown} lit={lit} onLit={setLit} />
        <OtherChain handle={otherEditor} collection={collection} shown={shown} />
      </section>
      {draft ? (
        <SidePane side="right" name="Consequences, stages, word lists">
          <Aside
            collection={collection}
            draft={draft}
            field={field}
            query={query}
            chains={chains}
            recordOut={written(chains.record, met.data?.record_calls ?? [])}
            language={shown.language}
            met={shown.met}
            readable={shown.readable}
            onMend={mend}
            onAdd={(stage) => {
              addStage(shown, stage)
              recordEditor.current?.focus()
            }}
            onWord={(word) => change({ q: word, key: null })}
            onFindings={rememberMend}
          />
        </SidePane>
      ) : (
        <Empty title="No ranker yet">Keep one first: its readings say which fields are read through chains.</Empty>
      )}
    </div>
  )
}

const written = (notation: string, calls: Call[]) => (fits(notation, calls) ? writtenOut(notation, calls) : notation)

function addStage({ chains, met }: MeetingShown, stage: StageInfo) {
  const known = met.data?.record_calls ?? []
  const needs = stage.parameters.some((parameter) => parameter.default === null)
  chains.setRecord(
    added(chains.record, fits(chains.record, known) ? known : [], needs ? `${stage.name}()` : stage.name, stage.kind),
    chains.recordOff,
  )
}

function RecordBar(props: {
  collection: Collection
  shown: MeetingShown
  samples: boolean
  onSamples: (samples: boolean) => void
}) {
  const { collection } = props
  const { field, kept, edited, setEdited, text, goTo, isBeside, compare, language, languages } = props.shown
  const { change } = useAddress()
  const fields = shownFields(collection)
  return (
    <TextBar
      collection={collection}
      field={field}
      onField={(next) => {
        setEdited(null)
        change({ field: next, rc: null, ro: null, qc: null, qo: null, lang: null })
      }}
      language={language}
      languages={languages}
      onLanguage={(lang) => change({ lang, rc: null, ro: null, qc: null, qo: null })}
      record={kept.data ?? null}
      title={field === fields.title || !kept.data ? '' : titleOf(fields, '', kept.data.field_values)}
      onKey={goTo}
      samples={props.samples}
      onSamples={props.onSamples}
      own={edited !== null}
      onOwn={() => setEdited(edited === null ? text : null)}
      beside={isBeside}
      onBeside={compare}
    />
  )
}

// keys: what further ones do.
function useChainKeys(shown: MeetingShown, keys: Record<string, () => void>) {
  const { chains, kept, goTo, compare } = shown
  useKeys((event: KeyboardEvent) => {
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
      c: () => document.querySelector<HTMLElement>('[data-card]')?.focus(),
      b: compare,
      ...keys,
    }
    const act = acts[event.key]
    if (!act) return
    event.preventDefault()
    act()
  })
}

function NoRecord({ collection, error }: { collection: Collection; error: Error }) {
  const { change } = useAddress()
  return error.message.includes('no records') ? (
    <Empty title="This collection has no records yet">
      Load some: <code>./paleharbor load FILE --collection {collection.name} --key FIELD</code>
    </Empty>
  ) : (
    <>
      <ProblemNote error={error} />
      <button type="button" className="link ml-8" onClick={() => change({ key: null })}>
        Look at another record
      </button>
    </>
  )
}

function Meeting({ shown, lit, onLit }: { shown: MeetingShown; lit: Lit | null; onLit: (lit: Lit | null) => void }) {
  const { met, further, layout, isBeside, text, query } = shown
  return (
    <div className="line-b min-h-0 flex-1 overflow-auto">
      {!met.data || !layout ? (
        <Unanswered asked={[met]} what="the trace" />
      ) : (
        <Kept asked={[met]} what="the trace">
          {isBeside ? (
            <SideBySide
              chains={[met.data.record_stages, met.data.query_stages, ...further.map((one) => one?.query_stages)].map(
                (stages) => stages?.at(-1)?.tokens,
              )}
              text={text}
            />
          ) : (
            <MeetingGrid meeting={met.data} layout={layout} asked={query.trim() !== ''} lit={lit} onLit={onLit} />
          )}
        </Kept>
      )}
    </div>
  )
}

function OtherChain({
  handle,
  collection,
  shown,
}: {
  handle: Ref<CodeHandle>
  collection: Collection
  shown: MeetingShown
}) {
  const { chains, met, query, isBeside } = shown
  return (
    <>
      {isBeside ? (
        <div className="max-h-[45%] shrink-0 overflow-y-auto">
          <ChainEditor
            handle={handle}
            collection={collection}
            label="Second chain"
            value={chains.beside ?? ''}
            off={chains.besideOff}
            calls={met.data?.query_calls ?? []}
            problem={met.data?.query_problem ?? null}
            onChange={chains.setBeside}
            after={<SavedChains collection={collection} notation={chains.beside ?? ''} onLoad={chains.setBeside} />}
          />
          <FurtherChains collection={collection} shown={shown} />
        </div>
      ) : (
        <ChainEditor
          handle={handle}
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
    </>
  )
}

const FURTHER = ['Third chain', 'Fourth chain']

function FurtherChains({ collection, shown }: { collection: Collection; shown: MeetingShown }) {
  const { chains, further } = shown
  const change = (place: number, notation: string) =>
    chains.setMore(chains.more.map((own, i) => (i === place ? notation : own)))
  return (
    <>
      {chains.more.map((notation, i) => (
        <ChainEditor
          key={i}
          collection={collection}
          label={FURTHER[i] ?? ''}
          value={notation}
          off={[]}
          calls={further[i]?.query_calls ?? []}
          problem={further[i]?.query_problem ?? null}
          onChange={(next) => change(i, next)}
          after={
            <span className="flex items-baseline">
              <SavedChains collection={collection} notation={notation} onLoad={(next) => change(i, next)} />
              <button
                type="button"
                className="btn btn-ghost btn-xs font-normal"
                aria-label={`Take the ${FURTHER[i]?.toLowerCase()} out`}
                onClick={() => chains.setMore(chains.more.filter((_, place) => place !== i))}
              >
                ✕
              </button>
            </span>
          }
        />
      ))}
      {chains.more.length < FURTHER.length && (
        <p className="px-4 py-1">
          <button
            type="button"
            className="link small"
            onClick={() => chains.setMore([...chains.more, chains.more.at(-1) ?? chains.beside ?? chains.record])}
          >
            compare one more chain
          </button>
        </p>
      )}
    </>
  )
}

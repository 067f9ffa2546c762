// The ledger: for each part of the ranker what would be lost without it, and what it costs. What wants a decision first.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Collection } from '../../api/queries'
import { beginLedger, cancelLedger, ledgers, type Ledger, type LedgerLine } from '../../api/tuning'
import { Kept, Unanswered } from '../../parts/answered'
import { Delta } from '../../parts/delta'
import { Empty, ProblemNote } from '../../parts/notes'
import { TakeAway } from '../../parts/take-away'
import { useAddress } from '../../shell/address'
import { useDoing } from '../../shell/use-doing'
import { useDraft, type Draft } from '../../shell/use-draft'
import { useMainMeasure } from '../../shell/use-meter'
import { draftParam } from '../../thinking/draft'
import { deltaText, measureText, MEASURE_NAMES } from '../../thinking/figures'
import { parsedHow } from '../../thinking/how'
import { bytesDelta, isOfDraft, ledgerTable, timeDelta } from '../../thinking/ledger'

export function LedgerView({ collection, set }: { collection: Collection; set: string }) {
  const found = useQuery(ledgers(collection.name))
  const { draft, error } = useDraft(collection)
  const measure = useMainMeasure()
  const rules = useAddress().params.get('rules')
  const { busy, problem, act } = useDoing('tuning', collection.name)
  if (error) return <ProblemNote error={error} />
  if (!found.data || draft === null) return <Unanswered asked={[found]} what="the ledgers" />
  const asked = {
    ranker: draft.baseline.name,
    version: draft.baseline.version,
    document: draft.isBaseline ? null : draft.document,
    measure,
    ...parsedHow(rules),
  }
  const own = found.data.find((one) => isOfDraft(one, asked, set))
  const isRunning = own?.state === 'running' || own?.state === 'waiting'
  const name = draft.isBaseline ? `${asked.ranker} ${asked.version}` : `the draft of ${asked.ranker} ${asked.version}`
  const by = MEASURE_NAMES[measure] ?? measure
  return (
    <Kept asked={[found]} what="the ledger" className="h-full">
      <div className="h-full overflow-y-auto" tabIndex={0} role="region" aria-label="The ledger">
        <div className="line-b flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 py-3">
          <p>
            What each part of {name} earns: {by} on {set}
            {own && own.mean !== null && (
              <span className="quiet small">
                {' '}
                {measureText(own.mean)}; {(own.index_bytes / 1e6).toFixed(1)} MB of index; {own.ms.toFixed(1)} ms a
                query
              </span>
            )}
          </p>
          {isRunning && own ? (
            <>
              <span role="status" className="quiet small">
                {own.done} of {own.in_all} parts
              </span>
              <button
                type="button"
                className="btn btn-xs"
                disabled={busy}
                onClick={() => void act(() => cancelLedger(collection.name, own.id))}
              >
                Cancel
              </button>
            </>
          ) : (
            <button
              type="button"
              className={`btn btn-xs ${own ? '' : 'btn-primary'}`}
              disabled={busy}
              onClick={() => void act(() => beginLedger(collection.name, set, asked))}
            >
              {own ? 'Make it anew' : 'Make the ledger'}
            </button>
          )}
          {own && own.lines.length > 0 && (
            <TakeAway what="the ledger" file={`${set}-ledger`} rows={() => ledgerTable(own)} />
          )}
        </div>
        {problem && <ProblemNote error={problem} />}
        {own?.problem && own.state !== 'cancelled' && <p className="loss px-4 py-2">{own.problem}</p>}
        {own && <Remarks ledger={own} />}
        {own && own.lines.length > 0 ? (
          <LedgerTable ledger={own} draft={draft} />
        ) : (
          !isRunning && (
            <Empty title="Not told yet">
              Each reading, stage, signal, space and rule is left out once, and the judged queries are asked again. It
              goes on while you are elsewhere; what it has to build is let go afterwards.
            </Empty>
          )
        )}
      </div>
    </Kept>
  )
}

function Remarks({ ledger }: { ledger: Ledger }) {
  return (
    <>
      {!ledger.is_current && (
        <p role="note" className="loss px-4 pt-2">
          Records or judgments changed since this was made: make it anew.
        </p>
      )}
      {ledger.needed.length > 0 && (
        <p className="quiet small px-4 pt-2">Cannot be left out alone: {ledger.needed.join('; ')}.</p>
      )}
    </>
  )
}

const HEADS = ['', 'part', 'earns', '95 %', 'saved', 'harmed', 'index', 'a query']

function LedgerTable({ ledger, draft }: { ledger: Ledger; draft: Draft }) {
  const [open, setOpen] = useState<string | null>(null)
  return (
    <div className="overflow-x-auto px-4 pb-4">
      <table className="w-full text-left">
        <thead>
          <tr className="quiet small">
            {HEADS.map((name, i) => (
              <th key={name} scope="col" className={`py-1 pr-4 font-normal ${i > 1 ? 'text-right' : ''}`}>
                {name || 'verdict'}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ledger.lines.map((line, i) => {
            // A chain may hold a stage twice.
            const name = `${line.kind} ${line.name} ${i}`
            return (
              <LedgerRows
                key={name}
                line={line}
                draft={draft}
                isOpen={open === name}
                onOpen={() => setOpen(open === name ? null : name)}
              />
            )
          })}
        </tbody>
      </table>
    </div>
  )
}

const LOOKS: Record<string, string> = { harms: 'loss font-semibold', 'earns nothing': 'font-semibold', earns: 'gain' }

function LedgerRows(props: { line: LedgerLine; draft: Draft; isOpen: boolean; onOpen: () => void }) {
  const { line, isOpen } = props
  const { earning } = line
  return (
    <>
      <tr className="line-b align-baseline">
        <td className={`py-1 pr-4 whitespace-nowrap ${LOOKS[earning.earns] ?? 'quiet'}`}>{earning.earns}</td>
        <td className="min-w-56 pr-4">
          <button
            type="button"
            aria-expanded={isOpen}
            className="min-h-6 cursor-pointer text-left wrap-anywhere hover:underline"
            onClick={props.onOpen}
          >
            <span className="quiet">{line.kind}</span> <span dir="auto">{line.name}</span>
          </button>
        </td>
        <td className="pr-4 text-right">
          <Delta value={earning.loses} />
        </td>
        <td className="figure quiet small pr-4 text-right whitespace-nowrap">
          {deltaText(earning.low)} to {deltaText(earning.high)}
        </td>
        <td className="figure pr-4 text-right">{earning.saved}</td>
        <td className="figure pr-4 text-right">{earning.harmed}</td>
        <td className="figure pr-4 text-right whitespace-nowrap">{bytesDelta(line.index_bytes)}</td>
        <td className="figure text-right whitespace-nowrap">{timeDelta(line.ms)}</td>
      </tr>
      {isOpen && (
        <tr className="line-b">
          <td />
          <td colSpan={HEADS.length - 1} className="pb-3">
            <Moved {...props} />
          </td>
        </tr>
      )}
    </>
  )
}

function Moved({ line, draft }: { line: LedgerLine; draft: Draft }) {
  const { change } = useAddress()
  const leave = () =>
    change(
      {
        ranker: `${draft.baseline.name}:${draft.baseline.version}`,
        d: draftParam(draft.baseline.filled_in, line.without as typeof draft.document),
      },
      false,
    )
  return (
    <>
      {line.moved.length === 0 ? (
        <p className="quiet small">No judged query is moved by it.</p>
      ) : (
        <ul>
          {line.moved.map((one) => (
            <li key={one.query}>
              <Delta value={one.value - one.without} /> <span dir="auto">{one.query}</span>{' '}
              <span className="quiet small">
                {measureText(one.without)} without it, {measureText(one.value)} with it
              </span>
            </li>
          ))}
        </ul>
      )}
      <button type="button" className="btn btn-xs mt-2" onClick={leave}>
        Leave it out of the draft
      </button>
    </>
  )
}

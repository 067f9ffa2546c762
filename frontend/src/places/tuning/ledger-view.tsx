// The ledger: for each part of the ranker what would be lost without it, and what it costs. What wants a decision first.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { putWordList } from '../../api/chains'
import type { Collection } from '../../api/queries'
import { beginLedger, cancelLedger, ledgers, type Ledger, type LedgerLine } from '../../api/tuning'
import { Kept, Unanswered } from '../../parts/answered'
import { Delta } from '../../parts/delta'
import { Empty, ProblemNote } from '../../parts/notes'
import { TakeAway } from '../../parts/take-away'
import { useDoing } from '../../shell/use-doing'
import { deltaText, measureText } from '../../thinking/figures'
import { bytesDelta, isOfDraft, ledgerTable, timeDelta } from '../../thinking/ledger'
import { JobHead } from './job-head'
import { usePlan } from './use-plan'

export function LedgerView({ collection, set }: { collection: Collection; set: string }) {
  const found = useQuery(ledgers(collection.name))
  const { error, plan, name, by, makeDraft } = usePlan(collection)
  const { busy, problem, act } = useDoing('tuning', collection.name)
  if (error) return <ProblemNote error={error} />
  if (!found.data || plan === null) return <Unanswered asked={[found]} what="the ledgers" />
  const own = found.data.find((one) => isOfDraft(one, plan, set))
  // A list first: the draft names the version that it becomes.
  const leave: Leave = (document, list) =>
    list === null
      ? makeDraft(document)
      : void act(() => putWordList(collection.name, list.name, list.csv, list.version), {
          then: () => makeDraft(document),
        })
  const isRunning = own?.state === 'running' || own?.state === 'waiting'
  return (
    <Kept asked={[found]} what="the ledger" className="h-full">
      <div className="h-full overflow-y-auto" tabIndex={0} role="region" aria-label="The ledger">
        <JobHead
          says={
            <>
              What each part of {name} earns: {by} on {set}
              {own && own.mean !== null && (
                <span className="quiet small">
                  {' '}
                  {measureText(own.mean)}; {(own.index_bytes / 1e6).toFixed(1)} MB of index; {own.ms.toFixed(1)} ms a
                  query
                </span>
              )}
            </>
          }
          state={own?.state}
          progress={`${own?.done} of ${own?.in_all} parts`}
          busy={busy}
          make="Make the ledger"
          onMake={() => void act(() => beginLedger(collection.name, set, plan))}
          onCancel={() => own && void act(() => cancelLedger(collection.name, own.id))}
        >
          {own && own.lines.length > 0 && (
            <TakeAway what="the ledger" file={`${set}-ledger`} rows={() => ledgerTable(own)} />
          )}
        </JobHead>
        {problem && <ProblemNote error={problem} />}
        {own?.problem && own.state !== 'cancelled' && <p className="loss px-4 py-2">{own.problem}</p>}
        {own && <Remarks ledger={own} />}
        {own && own.lines.length > 0 ? (
          <LedgerTable ledger={own} onLeave={leave} />
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

type Leave = (document: unknown, list: LedgerLine['new_list']) => void

function LedgerTable({ ledger, onLeave }: { ledger: Ledger; onLeave: Leave }) {
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
                onLeave={onLeave}
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

function LedgerRows(props: { line: LedgerLine; onLeave: Leave; isOpen: boolean; onOpen: () => void }) {
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

function Moved({ line, onLeave }: { line: LedgerLine; onLeave: Leave }) {
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
      <button type="button" className="btn btn-xs mt-2" onClick={() => onLeave(line.without, line.new_list)}>
        Leave it out of the draft
      </button>
      {line.new_list !== null && (
        <span className="quiet small pl-3">
          It keeps version {line.new_list.version} of @{line.new_list.name}.
        </span>
      )}
    </>
  )
}

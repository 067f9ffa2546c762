// Beside the meeting: what the doctor says and the chain does to the whole, the stages, the word lists.
import { useQuery } from '@tanstack/react-query'
import { useEffect, useMemo } from 'react'
import { consequences, reckoning, wordLists } from '../../api/chains'
import { ProblemError } from '../../api/client'
import { savedChains, type Collection } from '../../api/queries'
import { pressByArrow } from '../../parts/arrows'
import { Kept, Unanswered } from '../../parts/answered'
import { useAddress } from '../../shell/address'
import { usePaused } from '../../parts/use-paused'
import { useUndo } from '../../shell/use-undo'
import type { Draft } from '../../shell/use-draft'
import { CHAINS_TABS } from '../../shell/views'
import { chainFor, readThrough, withChainFor, withChains } from '../../thinking/draft'
import { behindIn, withNewest } from '../../thinking/reads'
import { bytesText } from '../../thinking/figures'
import { ConsequencesPanel } from './consequences-panel'
import { ofSample, totalOf } from '../../thinking/consequences'
import { Doctor, type Mending } from './doctor'
import { StageList, type StageInfo } from './stage-list'
import type { Chains } from './use-chains'
import type { MeetingShown } from './use-meeting'
import { WordListsPanel } from './word-lists-panel'

const PAUSE_MS = 300

export function Aside(props: {
  collection: Collection
  draft: Draft
  field: string
  query: string
  chains: Chains
  // The record chain with its saved chain written out.
  recordOut: string
  // That the chains are for, where they go by language.
  language: string | null
  // The trace, and whether its chains can be read.
  met: MeetingShown['met']
  readable: boolean
  onMend: (mend: Mending) => void
  onAdd: (stage: StageInfo) => void
  onWord: (word: string) => void
  onFindings: (mend: Mending | null) => void
}) {
  const { params, change } = useAddress()
  const tab = params.get('aside') ?? 'consequences'
  return (
    <aside className="line-l flex min-h-0 flex-col" aria-label="Beside the chains">
      <nav aria-label="What stands beside" onKeyDown={pressByArrow} className="line-b flex px-2">
        {CHAINS_TABS.map((one) => (
          <button
            key={one.view}
            type="button"
            aria-current={tab === one.view ? 'page' : undefined}
            className={`cursor-pointer border-b-[3px] px-2 pt-2 pb-[5px] ${tab === one.view ? 'border-primary font-semibold' : 'quiet border-transparent hover:bg-base-200'}`}
            onClick={() => change({ aside: one.view === 'consequences' ? null : one.view })}
          >
            {one.name}
          </button>
        ))}
      </nav>
      <div className="min-h-0 flex-1 overflow-y-auto">
        {tab === 'stages' ? (
          <StageList onAdd={props.onAdd} />
        ) : tab === 'lists' ? (
          <WordListsPanel collection={props.collection} draft={props.draft} />
        ) : (
          <Whole {...props} />
        )}
      </div>
    </aside>
  )
}

function Whole(props: Parameters<typeof Aside>[0]) {
  const { collection, field, query, chains } = props
  const readBy = props.draft.baselineChoice
  const wanted = useMemo(
    () => ({ field, record_chain: chains.record, query_chain: chains.query, query, read_by: readBy }),
    [field, chains.record, chains.query, query, readBy],
  )
  // The trace goes first: figures are asked for when the typing pauses.
  const ask = usePaused(wanted, PAUSE_MS)
  const said = useQuery({ ...consequences(collection.name, ask), enabled: props.readable })
  const id = said.data?.reckoning.id ?? ''
  const isSample = said.data && ofSample(said.data.figures)
  const under = useQuery({ ...reckoning(id), enabled: isSample === true })
  const now = under.data?.id === id ? under.data : said.data?.reckoning
  const refetch = said.refetch
  useEffect(() => {
    // All is read: the exact figures take the sample's place.
    if (isSample && now?.state === 'done') void refetch()
  }, [isSample, now?.state, refetch])

  const findings = said.data?.findings
  const { onFindings } = props
  useEffect(() => onFindings(findings?.find((finding) => finding.mend)?.mend ?? null), [findings, onFindings])

  // What is wrong with a chain is told where it stands.
  const ofChain = said.error instanceof ProblemError && said.error.problem.place != null
  const isBroken = props.met.data !== undefined && !props.readable
  if (isBroken || ofChain) return <p className="quiet p-4">Mend the chain to see what it does.</p>
  if (!said.data || !now) return <Unanswered asked={[props.met, said]} what="what it does to a sample" />
  return (
    <Kept asked={[said]} what="what the chain does">
      <Doctor findings={findings ?? []} onMend={props.onMend} />
      <ReadBehind {...props} />
      <InTheDraft {...props} bytes={totalOf(said.data.figures.index_bytes)} />
      <ConsequencesPanel figures={said.data.figures} reckoning={now} field={field} onWord={props.onWord} />
    </Kept>
  )
}

// Saved chains and word lists that the draft reads in older versions than there are, each to be taken in its newest.
function ReadBehind({ collection, draft, chains, recordOut }: Parameters<typeof Aside>[0]) {
  const lists = useQuery(wordLists(collection.name)).data ?? []
  const saved = useQuery(savedChains(collection.name)).data ?? []
  const own = chains.ownQuery.trim() === '' ? null : chains.ownQuery
  const inside = behindIn(recordOut, draft.baseline, saved, lists)
  const behind = [chains.record, ...(own === null ? [] : [own])]
    .flatMap((notation) => behindIn(notation, draft.baseline, saved, lists))
    .filter((one, i, all) => all.findIndex((other) => other.kind === one.kind && other.name === one.name) === i)
  const within = inside.filter((one) => !behind.some((other) => other.kind === one.kind && other.name === one.name))
  if (behind.length + within.length === 0) return null
  return (
    <section aria-label="Read in older versions" className="line-b px-4 py-3">
      <h2 className="heading quiet pb-1">Read in older versions</h2>
      <ul>
        {behind.map((one) => (
          <li key={`${one.kind} ${one.name}`} className="small pb-1">
            {draft.baseline.name} {draft.baseline.version} reads {one.kind}{' '}
            <b className="font-mono font-semibold">@{one.name}</b> in version {one.version}, and so it is shown here.{' '}
            <button
              type="button"
              className="link"
              onClick={() => chains.setBoth(withNewest(chains.record, one), own === null ? null : withNewest(own, one))}
            >
              try version {one.newest}
            </button>
          </li>
        ))}
        {within.map((one) => (
          <li key={one.name} className="small pb-1">
            Its saved chain reads word list <b className="font-mono font-semibold">@{one.name}</b> in version{' '}
            {one.version}.{' '}
            <button type="button" className="link" onClick={() => chains.setBoth(withNewest(recordOut, one), null)}>
              write it out with version {one.newest}
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}

// Which of the draft's readings read this field, and what taking this chain builds anew.
function InTheDraft(props: Parameters<typeof Aside>[0] & { bytes: number }) {
  const { draft, field, chains, language } = props
  const undo = useUndo(draft)
  const taken = chains.record
  const takenQuery = chains.ownQuery.trim() === '' ? null : chains.ownQuery
  const readings = draft.document.readings.flatMap((reading, i) => (reading.field === field ? [{ reading, i }] : []))
  if (readings.length === 0) return null
  return (
    <section aria-label="In the draft" className="line-b px-4 py-3">
      <h2 className="heading quiet pb-1">
        In the draft of {draft.baseline.name} {draft.baseline.version}
      </h2>
      <ul>
        {readings.map(({ reading, i }) => {
          // Of a reading by language only what is shown is changed.
          const now = shownChains(reading, language)
          const same = now.chain === taken && now.query_chain === takenQuery
          // Of a field that came to the draft, or changed its place, there is nothing to go back to.
          const before = draft.baseline.filled_in.readings[i]
          const then = before?.field === field ? shownChains(before, language) : null
          return (
            <li key={i} className="small pb-1">
              <b className="font-semibold">{reading.field}</b>, weight {reading.weight}:{' '}
              {same ? (
                <>
                  read through these chains{language === null ? '' : ` for ${languageText(language)}`}.{' '}
                  {before && then && (then.chain !== taken || then.query_chain !== takenQuery) && (
                    <button
                      type="button"
                      className="link"
                      onClick={() => undo.commit(withChains(draft.document, i, readThrough(before)))}
                    >
                      back to the baseline’s
                    </button>
                  )}
                </>
              ) : (
                <>
                  <button
                    type="button"
                    className="link font-semibold"
                    disabled={!props.readable}
                    onClick={() =>
                      undo.commit(
                        withChains(draft.document, i, {
                          chain: withChainFor(reading.chain, language, taken),
                          query_chain:
                            takenQuery === null
                              ? null
                              : withChainFor(reading.query_chain ?? reading.chain, language, takenQuery),
                        }),
                      )
                    }
                  >
                    read it through these chains{language === null ? '' : ` for ${languageText(language)}`}
                  </button>{' '}
                  <span className="quiet">
                    {now.chain === taken ? 'builds nothing' : `builds an index of ${bytesText(props.bytes)}`}; the
                    judged meter shows what moves.
                  </span>
                </>
              )}
            </li>
          )
        })}
      </ul>
    </section>
  )
}

// What a reading reads a language through.
function shownChains(reading: Draft['document']['readings'][number], language: string | null) {
  return {
    chain: chainFor(reading.chain, language),
    query_chain: reading.query_chain == null ? null : chainFor(reading.query_chain, language),
  }
}

const languageText = (language: string) => (language === 'else' ? 'other languages' : language)

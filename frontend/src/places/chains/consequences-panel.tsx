// What the record chain does to the whole collection: a sample at once, then everything.
import { useState, type ReactNode } from 'react'
import { cancelReckoning, type Figures, type Merge, type Reckoning } from '../../api/chains'
import { bytesText, countText } from '../../thinking/figures'
import { ofSample, totalOf } from '../../thinking/consequences'
import { TakeAway } from '../../parts/take-away'
import { useDoing } from '../../shell/use-doing'

export function ConsequencesPanel(props: {
  figures: Figures
  reckoning: Reckoning
  field: string
  onWord: (word: string) => void
}) {
  const { figures, reckoning } = props
  const [which, setWhich] = useState<'suspicious' | 'most'>('suspicious')
  const merges = which === 'suspicious' ? figures.suspicious : figures.most_merged
  const [mean, median, most] = figures.tokens_per_record
  const bytes = figures.index_bytes
  return (
    <section aria-label="Consequences" className="px-4 py-3">
      <h2 className="heading quiet pb-1">The whole collection’s {props.field}</h2>
      <Basis figures={figures} reckoning={reckoning} />
      <Figures figures={figures} median={median} most={most} mean={mean} bytes={bytes} />
      <BytesBar bytes={bytes} />

      <MergesHead figures={figures} which={which} onWhich={setWhich}>
        {merges.length > 0 && (
          <TakeAway
            what="the words that share a term"
            file={`${props.field}-shared-terms`}
            rows={() => mergesTable(merges)}
          />
        )}
      </MergesHead>
      {merges.length === 0 && (
        <p className="quiet small">
          {which === 'suspicious' ? 'None that stands often enough to tell.' : 'Each term is one word.'}
        </p>
      )}
      <ul aria-label="Words that share a term">
        {merges.slice(0, 12).map((merge) => (
          <MergeLine key={merge.term} merge={merge} onWord={props.onWord} />
        ))}
      </ul>

      <h3 className="heading quiet pt-3 pb-1">Dropped</h3>
      {figures.dropped_words === 0 ? <p className="quiet small">No word.</p> : <Dropped figures={figures} />}
      <Emptied figures={figures} />
    </section>
  )
}

function Figures({
  figures,
  median,
  most,
  mean,
  bytes,
}: {
  figures: Figures
  median: number
  most: number
  mean: number
  bytes: { lengths: number; letters: number; positions: number; postings: number; terms: number }
}) {
  return (
    <dl className="grid grid-cols-[1fr_auto] gap-x-3 pt-2">
      <Line name="terms">{countText(figures.vocabulary)}</Line>
      <Line name="words before token stages">{countText(figures.words)}</Line>
      <Line name="tokens per record" title={`median ${countText(median)}, most ${countText(most)}`}>
        {mean.toFixed(1)}
      </Line>
      <Line
        name={ofSample(figures) ? 'index, estimated' : 'index'}
        title={`${figures.text_bytes ? ((totalOf(bytes) * figures.records) / figures.records_in_all / figures.text_bytes).toFixed(1) : '0'} times the text`}
      >
        {bytesText(totalOf(bytes))}
      </Line>
    </dl>
  )
}

// A row for each word of each term; the two least alike are told.
const mergesTable = (merges: Merge[]) => [
  ['term', 'word', 'times', 'words of the term', 'least alike', 'alike'],
  ...merges.flatMap((merge) =>
    merge.words.map(({ word, count }) => {
      const unlike = merge.unlike?.slice(0, 2).includes(word) ? merge.unlike : null
      return [merge.term, word, count, merge.word_count, unlike ? 'yes' : '', unlike?.[2].toFixed(4) ?? '']
    }),
  ),
]

function MergesHead({
  figures,
  which,
  onWhich,
  children,
}: {
  children: ReactNode
  figures: Figures
  which: 'suspicious' | 'most'
  onWhich: (to: 'suspicious' | 'most') => void
}) {
  return (
    <div className="flex flex-wrap items-baseline gap-x-3 pt-3 pb-1">
      <h3 className="heading quiet flex-[1_0_100%]">{countText(figures.merging_terms)} terms of several words</h3>
      <button
        type="button"
        aria-pressed={which === 'suspicious'}
        className={`small cursor-pointer ${which === 'suspicious' ? 'font-semibold' : 'link'}`}
        onClick={() => onWhich('suspicious')}
      >
        suspicious
      </button>
      <button
        type="button"
        aria-pressed={which === 'most'}
        className={`small cursor-pointer ${which === 'most' ? 'font-semibold' : 'link'}`}
        onClick={() => onWhich('most')}
      >
        most
      </button>
      {children}
    </div>
  )
}

function Dropped({ figures }: { figures: Figures }) {
  return (
    <p className="small wrap-anywhere">
      <b className="font-semibold">{countText(figures.dropped_words)}</b>{' '}
      {figures.dropped_words === 1 ? 'word' : 'words'}, {countText(figures.dropped_tokens)} times:{' '}
      <span className="font-mono text-[12px]">
        {figures.dropped
          .slice(0, 16)
          .map((one) => one.word)
          .join(' ')}
      </span>
      {figures.dropped_words > 16 && ' …'}
    </p>
  )
}

function Emptied({ figures }: { figures: Figures }) {
  return (
    <p className="small pt-1">
      {figures.empty_count === 0 ? (
        <span className="quiet">No value is left empty.</span>
      ) : (
        <>
          <b className="loss font-semibold">{countText(figures.empty_count)}</b>{' '}
          {figures.empty_count === 1 ? 'value is' : 'values are'} left empty
          {figures.empty_values[0] &&
            `, such as “${figures.empty_values[0][1].slice(0, 40)}” (${figures.empty_values[0][0]})`}
          .
        </>
      )}
    </p>
  )
}

function Basis({ figures, reckoning }: { figures: Figures; reckoning: Reckoning }) {
  const { act } = useDoing(null)
  if (!ofSample(figures))
    return (
      <p className="small" role="status">
        All {countText(figures.records)} records, exact.
      </p>
    )
  const share = reckoning.records_in_all ? reckoning.records_read / reckoning.records_in_all : 0
  return (
    <div className="small" role="status">
      <p>
        A sample: {countText(figures.records)} of {countText(figures.records_in_all)} records.{' '}
        {reckoning.state === 'running' && (
          <>
            <span className="quiet">All are being read, {Math.round(share * 100)} %.</span>{' '}
            <button type="button" className="link" onClick={() => void act(() => cancelReckoning(reckoning.id))}>
              Cancel
            </button>
          </>
        )}
        {reckoning.state === 'cancelled' && <span className="quiet">Reading all was cancelled.</span>}
        {reckoning.state === 'failed' && <span className="loss">{reckoning.problem}</span>}
      </p>
      {reckoning.state === 'running' && (
        <span aria-hidden className="mt-1 block h-[3px] bg-base-300">
          <span className="fills block h-full bg-primary" style={{ width: `${share * 100}%` }} />
        </span>
      )}
    </div>
  )
}

function Line({ name, title, children }: { name: string; title?: string; children: ReactNode }) {
  return (
    <>
      <dt title={title}>{name}</dt>
      <dd className="figure" title={title}>
        {children}
      </dd>
    </>
  )
}

const PARTS = ['terms', 'postings', 'positions', 'letters', 'lengths'] as const

// The index by part, one bar as everywhere.
function BytesBar({ bytes }: { bytes: Figures['index_bytes'] }) {
  const shades = [20, 44, 68, 86, 100]
  return (
    <>
      <div aria-hidden className="mt-1 flex h-[8px] gap-px">
        {PARTS.map((part, i) => (
          <span
            key={part}
            title={`${part}: ${bytesText(bytes[part])}`}
            style={{
              width: `${(100 * bytes[part]) / Math.max(totalOf(bytes), 1)}%`,
              background: `color-mix(in oklab, var(--color-base-content) ${shades[i]}%, var(--color-base-100))`,
            }}
          />
        ))}
      </div>
      <p className="quiet small pt-0.5">{PARTS.map((part) => `${part} ${bytesText(bytes[part])}`).join(', ')}</p>
    </>
  )
}

function MergeLine({ merge, onWord }: { merge: Merge; onWord: (word: string) => void }) {
  return (
    <li className="flex items-baseline gap-2 py-px">
      <span className="w-[78px] shrink-0 truncate font-mono text-[12px] font-semibold" title={merge.term}>
        {merge.term}
      </span>
      <span
        className="small min-w-0 flex-1 truncate"
        title={merge.words.map((one) => `${one.word} ×${one.count}`).join(', ')}
      >
        {merge.words.map((one, i) => (
          <span key={one.word}>
            {i > 0 && ', '}
            <button
              type="button"
              className={`cursor-pointer hover:underline ${merge.unlike?.includes(one.word) ? 'font-semibold' : ''}`}
              title={`${one.word} ×${one.count}: see a text with it`}
              onClick={() => onWord(one.word)}
            >
              {one.word}
            </button>
          </span>
        ))}
        {merge.word_count > merge.words.length && ` … ${merge.word_count} in all`}
      </span>
      {merge.unlike && (
        <span
          className="quiet small figure shrink-0"
          title={`How alike the company of ${merge.unlike[0]} and ${merge.unlike[1]} is, from 0 to 1`}
        >
          {merge.unlike[2].toFixed(2)}
        </span>
      )}
    </li>
  )
}

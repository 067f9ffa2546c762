// Texts to try a chain on, from the collection itself.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { samples, type Sample, type SampleBy } from '../../api/chains'
import type { Collection } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'

const WAYS: { by: SampleBy; name: string }[] = [
  { by: 'chance', name: 'at random' },
  { by: 'longest', name: 'the longest' },
  { by: 'oddest', name: 'the oddest' },
  { by: 'word', name: 'with a word' },
]

export function SampleMenu(props: {
  collection: Collection
  field: string
  onChoose: (key: string) => void
  onClose: () => void
}) {
  const [by, setBy] = useState<SampleBy>('chance')
  const [word, setWord] = useState('')
  const [seed, setSeed] = useState(0)
  const asks = by !== 'word' || word.trim() !== ''
  const found = useQuery({ ...samples(props.collection.name, props.field, by, word, seed), enabled: asks })
  return (
    <div
      role="dialog"
      aria-label="Samples"
      className="absolute top-full left-0 z-10 mt-1 w-[640px] border border-base-300 bg-base-100 p-3 shadow-md"
      onKeyDown={(event) => event.key === 'Escape' && props.onClose()}
    >
      <div className="flex items-baseline gap-1 pb-2">
        {WAYS.map((way, i) => (
          <button
            key={way.by}
            type="button"
            autoFocus={i === 0}
            aria-pressed={by === way.by}
            className={`cursor-pointer border-b-2 px-2 ${by === way.by ? 'border-primary font-semibold' : 'quiet border-transparent'}`}
            onClick={() => setBy(way.by)}
          >
            {way.name}
          </button>
        ))}
        {by === 'word' && (
          <input
            dir="auto"
            aria-label="Which word"
            autoFocus
            placeholder="which word?"
            className="ml-2 w-[150px] border-b border-base-300 bg-transparent"
            value={word}
            maxLength={200}
            onChange={(event) => setWord(event.target.value)}
          />
        )}
        <span className="flex-1" />
        {by === 'chance' && (
          <button type="button" className="link small" onClick={() => setSeed(seed + 1)}>
            others
          </button>
        )}
        <button type="button" className="link small pl-3" onClick={props.onClose}>
          close
        </button>
      </div>
      {!asks ? (
        <p className="quiet">Type a word that the texts should hold.</p>
      ) : !found.data ? (
        <Unanswered asked={[found]} what="samples" />
      ) : found.data.length === 0 ? (
        <p className="quiet">No record has such a {props.field}.</p>
      ) : (
        <Kept asked={[found]} what="samples">
          <SampleRows samples={found.data} onChoose={props.onChoose} />
        </Kept>
      )}
    </div>
  )
}

function SampleRows(props: { samples: Sample[]; onChoose: (key: string) => void }) {
  return (
    <ul className="max-h-[280px] overflow-y-auto">
      {props.samples.map((sample) => (
        <li key={sample.key}>
          <button
            type="button"
            className="flex w-full cursor-pointer items-baseline gap-3 py-0.5 text-left hover:bg-base-200"
            onClick={() => props.onChoose(sample.key)}
          >
            <span className="quiet w-[84px] shrink-0 truncate font-mono text-[12px]">{sample.key}</span>
            <span dir="auto" className="min-w-0 flex-1 truncate">
              {sample.text}
            </span>
            <span className="quiet small figure shrink-0">{Array.from(sample.text).length.toLocaleString('en')}</span>
          </button>
        </li>
      ))}
    </ul>
  )
}

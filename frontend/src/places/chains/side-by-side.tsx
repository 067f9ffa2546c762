// Chains on the same text, stretch by stretch, with what differs marked.
import { TakeTable } from '../../parts/take-table'
import { useState } from 'react'
import type { Meeting } from '../../api/queries'
import { stretches } from '../../thinking/side-by-side'

type Tokens = Meeting['record_stages'][number]['tokens']

const ORDINALS = ['first', 'second', 'third', 'fourth']
const MOST_SHOWN = 400

export function SideBySide({ chains, text }: { chains: (Tokens | undefined)[]; text: string }) {
  const [onlyDifferent, setOnlyDifferent] = useState(false)
  const readable = chains.flatMap((tokens) => (tokens ? [tokens] : []))
  if (readable.length < chains.length)
    return <p className="quiet p-4">One of the chains cannot be read yet: mend what is underlined.</p>
  const letters = Array.from(text)
  const all = stretches(readable)
  const different = all.filter((stretch) => stretch.differs)
  const shown = onlyDifferent ? different : all
  return (
    <section aria-label="Side by side" className="px-4 py-3">
      <div className="flex items-baseline gap-4 pb-2">
        <p role="status">
          <b className="font-semibold">{different.length}</b> of {all.length} stretches differ;{' '}
          {readable.map((tokens) => tokens.length).join(' and ')} tokens.
        </p>
        <label className="flex items-baseline gap-1.5">
          <input type="checkbox" checked={onlyDifferent} onChange={(event) => setOnlyDifferent(event.target.checked)} />
          <span className="small">only what differs</span>
        </label>
        <TakeTable what="the stretches" file="side-by-side" />
      </div>
      <table className="border-collapse" aria-label="Stretches">
        <thead>
          <tr className="quiet small text-left">
            <th className="pr-6 font-normal">text</th>
            <th className="w-[28px]">
              <span className="sr-only">Changed</span>
            </th>
            {readable.map((_, i) => (
              <th key={i} className="pr-6 font-normal">
                {ORDINALS[i]} chain
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.slice(0, MOST_SHOWN).map(({ start, end, made, differs }) => (
            <tr key={`${start}-${end}`} data-differs={differs} className="border-t border-base-200">
              <td dir="auto" className="max-w-[260px] truncate pr-6">
                {letters.slice(start, end).join('')}
              </td>
              <td className="text-center" title={differs ? 'These differ' : 'The same'}>
                {differs ? <b className="loss">≠</b> : <span className="quiet">=</span>}
              </td>
              {made.map((texts, i) => (
                <Terms key={i} texts={texts} others={made.filter((_, other) => other !== i)} />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {shown.length > MOST_SHOWN && <p className="quiet small pt-2">{shown.length - MOST_SHOWN} more stretches.</p>}
    </section>
  )
}

// Marked: terms that some other chain does not leave.
function Terms({ texts, others }: { texts: string[]; others: string[][] }) {
  return (
    <td className="max-w-[300px] pr-6 font-mono text-[13px]">
      {texts.length === 0 ? (
        <span className="quiet small font-sans">nothing</span>
      ) : (
        texts.map((text, i) => (
          <span
            key={i}
            dir="auto"
            className={`mr-2 inline-block ${others.every((other) => other.includes(text)) ? '' : 'border-b-2 border-secondary font-semibold'}`}
          >
            {text}
          </span>
        ))
      )}
    </td>
  )
}

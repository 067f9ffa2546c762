// Two chains on the same text, stretch by stretch, with what differs marked.
import { useState } from 'react'
import type { Meeting } from '../../api/queries'
import { pairs } from '../../thinking/side-by-side'

export function SideBySide({ meeting, text }: { meeting: Meeting; text: string }) {
  const [onlyDifferent, setOnlyDifferent] = useState(false)
  const first = meeting.record_stages.at(-1)?.tokens
  const second = meeting.query_stages.at(-1)?.tokens
  if (!first || !second)
    return <p className="quiet p-4">One of the chains cannot be read yet: mend what is underlined.</p>
  const letters = Array.from(text)
  const all = pairs(first, second)
  const different = all.filter((pair) => pair.differs)
  const shown = onlyDifferent ? different : all
  return (
    <section aria-label="Side by side" className="px-4 py-3">
      <div className="flex items-baseline gap-4 pb-2">
        <p role="status">
          <b className="font-semibold">{different.length}</b> of {all.length} stretches differ; {first.length} and{' '}
          {second.length} tokens.
        </p>
        <label className="flex items-baseline gap-1.5">
          <input type="checkbox" checked={onlyDifferent} onChange={(event) => setOnlyDifferent(event.target.checked)} />
          <span className="small">only what differs</span>
        </label>
      </div>
      <table className="border-collapse" aria-label="Stretches">
        <thead>
          <tr className="quiet small text-left">
            <th className="pr-6 font-normal">text</th>
            <th className="pr-6 font-normal">first chain</th>
            <th className="w-[28px]">
              <span className="sr-only">Changed</span>
            </th>
            <th className="font-normal">second chain</th>
          </tr>
        </thead>
        <tbody>
          {shown.slice(0, 400).map((pair) => (
            <tr key={`${pair.start}-${pair.end}`} data-differs={pair.differs} className="border-t border-base-200">
              <td className="max-w-[260px] truncate pr-6">{letters.slice(pair.start, pair.end).join('')}</td>
              <Terms texts={pair.first} other={pair.second} />
              <td className="text-center" title={pair.differs ? 'These differ' : 'The same'}>
                {pair.differs ? <b className="loss">≠</b> : <span className="quiet">=</span>}
              </td>
              <Terms texts={pair.second} other={pair.first} />
            </tr>
          ))}
        </tbody>
      </table>
      {shown.length > 400 && <p className="quiet small pt-2">{shown.length - 400} more stretches.</p>}
    </section>
  )
}

function Terms({ texts, other }: { texts: string[]; other: string[] }) {
  return (
    <td className="max-w-[300px] pr-6 font-mono text-[13px]">
      {texts.length === 0 ? (
        <span className="quiet small font-sans">nothing</span>
      ) : (
        texts.map((text, i) => (
          <span
            key={i}
            className={`mr-2 inline-block ${other.includes(text) ? '' : 'border-b-2 border-secondary font-semibold'}`}
          >
            {text}
          </span>
        ))
      )}
    </td>
  )
}

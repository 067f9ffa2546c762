// Good records that a list misses, the best first, each with where it is and why it is no higher.
import { useState } from 'react'
import type { Schemas } from '../api/client'
import { GradeRungs } from './grade-rungs'

type OfQuery = Schemas['MissedOfQuery']

export function MissedRecords(props: { missed: OfQuery; first?: number; onOpen: (key: string) => void }) {
  const { missed, onOpen } = props
  const [all, setAll] = useState(false)
  const shown = all ? missed.records : missed.records.slice(0, props.first)
  const more = missed.records.length - shown.length
  return (
    <ul aria-label={`Missed of “${missed.query}”`}>
      {shown.map((record) => (
        <li key={record.key} className="flex items-start gap-2 py-1">
          <span className="pt-[2px]">
            <GradeRungs grade={record.grade} />
          </span>
          <div className="min-w-0 flex-1">
            <button
              type="button"
              dir="auto"
              className="link text-left font-semibold wrap-anywhere"
              title={`${record.key}: why not`}
              onClick={() => onOpen(record.key)}
            >
              {record.title}
            </button>
            {record.title !== record.key && <span className="quiet small pl-2 font-mono">{record.key}</span>}
            <p className="small wrap-anywhere">
              <span className="font-semibold">
                {record.rank === null ? 'not found' : `number ${record.rank.toLocaleString('en')}`}
              </span>
              <span className="quiet"> · {record.reason}</span>
            </p>
          </div>
        </li>
      ))}
      {more > 0 && (
        <li>
          <button type="button" className="link small" onClick={() => setAll(true)}>
            {more} more
          </button>
        </li>
      )}
      {missed.unexplained > 0 && <li className="quiet small">and {missed.unexplained} more</li>}
    </ul>
  )
}

export const foundText = (missed: OfQuery, depth: number) =>
  `${missed.above} of ${missed.good} good records among the first ${depth}, ${missed.found} found at all`

export const DEPTHS = [10, 20, 50, 100, 1000]

export function DepthChoice({ depth, onChoose }: { depth: number; onChoose: (depth: number) => void }) {
  return (
    <label className="small flex items-baseline gap-1.5 whitespace-nowrap">
      missed below
      <select
        aria-label="How far down a good record may be"
        className="w-auto bg-transparent"
        value={depth}
        onChange={(event) => onChoose(Number(event.target.value))}
      >
        {DEPTHS.map((one) => (
          <option key={one} value={one}>
            {one}
          </option>
        ))}
      </select>
    </label>
  )
}

// As the address says; the first ten where it says nothing that there is.
export const depthOf = (said: string | null) => DEPTHS.find((one) => String(one) === said) ?? 10

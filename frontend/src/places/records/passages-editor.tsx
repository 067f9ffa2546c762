// How long values are cut into passages, tried on real ones at every change.
import { useQuery } from '@tanstack/react-query'
import { useHeld } from '../../parts/use-held'
import type { Collection } from '../../api/queries'
import { triedPassages, type PassageRule } from '../../api/records'
import { Kept, Unanswered } from '../../parts/answered'
import { countText } from '../../thinking/figures'
import { Select } from '../../parts/select'
import { Changing } from '../../shell/changing'

const WAYS: [PassageRule['by'] | '', string][] = [
  ['', 'not cut'],
  ['sentences', 'by sentences'],
  ['paragraphs', 'by paragraphs'],
  ['size', 'by number of words'],
  ['delimiter', 'at a delimiter'],
]
const FIRST: Record<PassageRule['by'], PassageRule> = {
  sentences: { by: 'sentences', size: 3, overlap: 1, delimiter: '' },
  paragraphs: { by: 'paragraphs', size: 1, overlap: 0, delimiter: '' },
  size: { by: 'size', size: 100, overlap: 20, delimiter: '' },
  delimiter: { by: 'delimiter', size: 1, overlap: 0, delimiter: '***' },
}

export function PassagesEditor(props: {
  collection: Collection
  field: string
  kept: PassageRule | null
  onKeep: (rule: PassageRule | null) => void
}) {
  const held = `passages ${props.collection.name}/${props.field}/`
  const [rule, setRule] = useHeld<PassageRule | null>(`${held}rule`, props.kept)
  const changed = JSON.stringify(rule) !== JSON.stringify(props.kept)
  return (
    <section aria-label="Passages" className="px-4 py-3">
      <h3 className="heading quiet pb-1">Passages</h3>
      <div className="flex flex-wrap items-baseline gap-2">
        <Select
          label="How passages are cut"
          className="boxed low w-auto bg-transparent text-[14px]"
          value={rule?.by ?? ''}
          choices={WAYS}
          onChoose={(by) => setRule(by === '' ? null : FIRST[by])}
        />
        {rule && (rule.by === 'sentences' || rule.by === 'size') && (
          <>
            <Count
              name="each"
              label="Size of a passage"
              value={rule.size ?? 1}
              least={1}
              onChange={(size) => setRule({ ...rule, size })}
            />
            <Count
              name="overlap"
              label="Overlap"
              value={rule.overlap ?? 0}
              least={0}
              onChange={(overlap) => setRule({ ...rule, overlap })}
            />
          </>
        )}
        {rule?.by === 'delimiter' && (
          <input
            dir="auto"
            aria-label="Delimiter"
            className="input input-xs w-[100px] border-base-300 bg-transparent font-mono"
            value={rule.delimiter}
            onChange={(event) => setRule({ ...rule, delimiter: event.target.value })}
          />
        )}
        {changed && (
          <Changing>
            <button type="button" className="btn btn-primary btn-xs" onClick={() => props.onKeep(rule)}>
              Keep
            </button>
          </Changing>
        )}
      </div>
      {rule && <Tried collection={props.collection.name} field={props.field} rule={rule} />}
    </section>
  )
}

function Count(props: {
  name: string
  label: string
  value: number
  least: number
  onChange: (value: number) => void
}) {
  return (
    <label className="flex items-baseline gap-1">
      <span className="quiet small">{props.name}</span>
      <input
        type="number"
        aria-label={props.label}
        className="input input-xs w-[64px] border-base-300 bg-transparent"
        min={props.least}
        max={9999}
        value={props.value}
        onChange={(event) =>
          props.onChange(Math.max(props.least, Math.min(9999, Math.round(Number(event.target.value)) || props.least)))
        }
      />
    </label>
  )
}

function Tried({ collection, field, rule }: { collection: string; field: string; rule: PassageRule }) {
  const tried = useQuery(triedPassages(collection, field, rule))
  if (!tried.data) return <Unanswered asked={[tried]} what="how it cuts" />
  const { cut, passages, values, longest } = tried.data
  return (
    <Kept asked={[tried]} what="how it cuts">
      {cut === 0 ? (
        <p role="status" className="loss pt-2">
          This never cut any of the {countText(tried.data.tried)} values it was tried on.
        </p>
      ) : (
        <p role="status" className="quiet small pt-2">
          Cut {countText(cut)} of {countText(tried.data.tried)} values it was tried on into {countText(passages)}{' '}
          passages, the longest {countText(longest)} characters.
        </p>
      )}
      {values.slice(0, 1).map((value) => (
        <ol key={value.text.slice(0, 60)} aria-label="Passages of a value" className="pt-1">
          {value.stretches.slice(0, 12).map(([start, end], i) => (
            <li key={i} className="small line-t flex gap-2 py-1">
              <span className="quiet figure w-[20px] shrink-0">{i + 1}</span>
              <span className="line-clamp-3 wrap-anywhere">{Array.from(value.text).slice(start, end).join('')}</span>
            </li>
          ))}
          {value.stretches.length > 12 && <li className="quiet small">and {value.stretches.length - 12} more</li>}
        </ol>
      ))}
    </Kept>
  )
}

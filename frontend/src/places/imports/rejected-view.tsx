// Rows that could not be read: why, and what stands there. Mended here, or in an editor, they go in.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { here } from '../../api/base'
import type { Collection } from '../../api/queries'
import { imports, mendRows, rejected, type Import, type Rejected } from '../../api/records'
import { Empty, ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { countText } from '../../thinking/figures'
import { whenText } from '../../thinking/revisions'
import { useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { Kept, Unanswered } from '../../parts/answered'
import { Changing } from '../../shell/changing'

export function RejectedView({ collection }: { collection: Collection }) {
  const { params, change } = useAddress()
  const all = useQuery(imports(collection.name))
  if (!all.data) return <Unanswered asked={[all]} what="the imports" />
  const withRejects = all.data.filter((one) => one.rows_rejected > 0)
  const shown = withRejects.find((one) => String(one.id) === params.get('of')) ?? withRejects[0]
  if (!shown) {
    return (
      <Empty title="Every row was read">
        A row that an import cannot read is kept here, with its line and the reason.
      </Empty>
    )
  }
  return (
    <Kept asked={[all]} what="the imports" className="h-full">
      <div className="flex h-full flex-col">
        <div className="line-b flex items-center gap-3 px-4 py-2">
          <select
            aria-label="Import"
            className="boxed w-auto bg-transparent"
            value={shown.id}
            onChange={(event) => change({ of: event.target.value })}
          >
            {withRejects.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}, {whenText(one.created_at)}: {countText(one.rows_rejected)} rejected
              </option>
            ))}
          </select>
          <a className="link" href={here(`/api/imports/${shown.id}/rejected/file`)} download>
            Download these rows
          </a>
        </div>
        <Rows key={shown.id} of={shown} />
      </div>
    </Kept>
  )
}

function Rows({ of }: { of: Import }) {
  const page = useQuery(rejected(of.id, 0))
  const { busy, problem, act } = useDoing('everything')
  const held = `mended ${of.id}/`
  const [mended, setMended] = useHeld<Record<number, string>>(`${held}mended`, {})
  const [said, setSaid] = useState('')
  const mend = () =>
    act(
      () =>
        mendRows(
          of.id,
          Object.entries(mended).map(([row, raw]) => ({ row_number: Number(row), raw })),
        ),
      {
        then: (answer) => {
          const still = answer.still_rejected.length
          setSaid(
            `${countText(answer.mended.length)} went in${still > 0 ? `, ${countText(still)} cannot be read yet` : ''}.`,
          )
          setMended({})
        },
      },
    )
  if (!page.data) return <Unanswered asked={[page]} what="the rejected rows" />
  const count = Object.keys(mended).length
  return (
    <Kept asked={[page]} what="the rejected rows" className="flex min-h-0 flex-1 flex-col">
      <div className="line-b flex items-center gap-3 px-4 py-2">
        <span className="quiet flex-1" role="status">
          {said || 'Mend what stands there; rows that can be read then become records.'}
        </span>
        {count > 0 && (
          <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={() => setMended({})}>
            Take back
          </button>
        )}
        <Changing of={of.collection}>
          <button type="button" className="btn btn-primary btn-sm" disabled={count === 0 || busy} onClick={mend}>
            {count === 0 ? 'Read again' : `Read ${countText(count)} again`}
          </button>
        </Changing>
      </div>
      {problem && <ProblemNote error={problem} />}
      <ol aria-label="Rejected rows" className="long-list min-h-0 flex-1 overflow-y-auto">
        {page.data.rows.map((row) => (
          <Row
            key={row.row_number}
            row={row}
            mended={mended[row.row_number]}
            onMend={(raw) => setMended({ ...mended, [row.row_number]: raw })}
          />
        ))}
        {page.data.found > page.data.rows.length && (
          <li className="quiet px-4 py-3">
            The first {countText(page.data.rows.length)} of {countText(page.data.found)}; download them all above.
          </li>
        )}
      </ol>
    </Kept>
  )
}

function Row({ row, mended, onMend }: { row: Rejected; mended: string | undefined; onMend: (raw: string) => void }) {
  const raw = row.raw.replace(/\r?\n$/, '')
  const text = mended ?? raw
  return (
    <li
      className={`line-b grid grid-cols-[84px_minmax(0,1fr)] gap-x-3 border-l-[3px] px-4 py-2 ${mended === undefined ? 'border-l-transparent' : 'border-l-primary'}`}
    >
      <span className="quiet small figure pt-[2px]">line {countText(row.line)}</span>
      <div className="min-w-0">
        <p className="wrap-anywhere">{row.reason}</p>
        <textarea
          dir="auto"
          aria-label={`What stands on line ${row.line}`}
          spellCheck={false}
          rows={Math.min(6, Math.max(1, Math.ceil(text.length / 120), text.split('\n').length))}
          className="textarea mt-1 min-h-0 w-full border-base-300 bg-transparent px-2 py-1 font-mono text-[13px] leading-[18px]"
          value={text}
          onChange={(event) => onMend(event.target.value)}
        />
      </div>
    </li>
  )
}

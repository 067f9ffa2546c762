// Which side is right: words, meaning and the blend, for the open query and for all that are judged.
import { TakeTable } from '../../parts/take-table'
import { useQuery } from '@tanstack/react-query'
import type { Collection } from '../../api/queries'
import { sides, type Sides } from '../../api/spaces'
import { useSetName, type Draft } from '../../shell/use-draft'
import { useAddress } from '../../shell/address'
import { measureText } from '../../thinking/figures'
import { Kept, Unanswered } from '../../parts/answered'
import { isSameQuery } from '../../thinking/judging'

type Row = Pick<Sides['all'], 'name' | 'words' | 'meaning' | 'blended' | 'unjudged'> & Partial<Sides['all']>

export function SidesPanel({ collection, draft }: { collection: Collection; draft: Draft }) {
  const { params } = useAddress()
  const set = useSetName(collection)
  const asks = (draft.document.spaces ?? []).length > 0
  const found = useQuery({ ...sides(collection, set ?? '', draft.choice), enabled: set !== null && asks })
  if (!asks)
    return <p className="quiet p-4">The draft asks no space: there is one side, words. Add a space under Meaning.</p>
  if (set === null)
    return (
      <p className="quiet p-4">
        Without a judged set nobody knows which side is right. Load one: ./paleharbor judged load
      </p>
    )
  if (!found.data) return <Unanswered asked={[found]} what="both sides" />
  const { all, kinds, tags, queries, notes } = found.data
  const open = queries.find((one) => isSameQuery(one.query, params.get('q') ?? ''))
  return (
    <Kept asked={[found]} what="both sides">
      <div className="px-4 py-3">
        <p className="quiet small pb-2">
          nDCG@10 of the words alone, of the spaces alone, and of the draft. The best of the three stands out; below
          each stands how much of the first ten is unjudged.
        </p>
        {notes.length > 0 && (
          <ul aria-label="What to know of these figures" className="small pb-2">
            {notes.map((note) => (
              <li key={note}>{note}</li>
            ))}
          </ul>
        )}
        {open && <Table title="This query" rows={[{ ...open, name: open.kind ?? 'this query' }]} />}
        <Table title={`All ${all.queries} judged queries`} rows={[{ ...all, name: 'mean' }]} />
        <p className="small pb-3">
          Words are right more often for <b>{all.words_better}</b>, meaning for <b>{all.meaning_better}</b>; the blend
          beats both for <b>{all.blend_best}</b>.
        </p>
        {kinds.length > 0 && <Table title="By kind of query" rows={kinds} counted />}
        <Table title="By tag" rows={tags} counted />
      </div>
    </Kept>
  )
}

function Table({ title, rows, counted }: { title: string; rows: Row[]; counted?: boolean }) {
  return (
    <div>
      <TakeTable what={title} file={title} />
      <table className="mb-3 w-full" aria-label={title}>
        <thead>
          <tr className="quiet small">
            <th className="text-left font-normal">{title}</th>
            <th className="figure w-[52px] font-normal">words</th>
            <th className="figure w-[62px] font-normal">meaning</th>
            <th className="figure w-[60px] font-normal">blended</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => {
            const best = Math.max(row.words, row.meaning, row.blended)
            const cell = (value: number, unjudged: number | undefined) => (
              <td className="figure align-top">
                <span className={best > 0 && value > best - 0.0005 ? 'font-semibold' : 'quiet'}>
                  {measureText(value)}
                </span>
                <span className="quiet block text-[11px] leading-tight" title="unjudged">
                  {Math.round(100 * (unjudged ?? 0))} %
                </span>
              </td>
            )
            return (
              <tr key={row.name} className="line-t">
                <td className="py-[2px] pr-2">
                  {row.name}
                  {counted && <span className="quiet small"> {row.queries}</span>}
                </td>
                {cell(row.words, row.unjudged[0])}
                {cell(row.meaning, row.unjudged[1])}
                {cell(row.blended, row.unjudged[2])}
              </tr>
            )
          })}
        </tbody>
      </table>
    </div>
  )
}

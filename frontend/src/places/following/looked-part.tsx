// The first rows of a query as they would become records, and what it costs the database.
import type { Looked } from '../../api/following'
import { countText } from '../../thinking/figures'
import { writtenType } from '../../thinking/following'

export function LookedPart({ looked }: { looked: Looked }) {
  const { planned } = looked
  const tells = [
    looked.looked_at === 0
      ? 'It gives no rows'
      : `Its first ${countText(looked.looked_at)} rows took ${Math.round(looked.elapsed_ms)} ms`,
    planned.rows !== null && `the database expects about ${countText(Math.round(planned.rows))}`,
    planned.cost !== null && `at a cost of ${countText(Math.round(planned.cost))} by its own reckoning`,
  ].filter(Boolean)
  return (
    <section aria-label="First rows" className="min-w-0">
      <h2 className="heading quiet pb-1">First rows</h2>
      <p>
        {tells.join(', ')}.
        {looked.rejected > 0 && (
          <span className="loss"> {countText(looked.rejected)} of them cannot become records.</span>
        )}
      </p>
      {looked.problem && (
        <p role="alert" className="loss wrap-anywhere">
          {looked.problem}
        </p>
      )}
      {looked.unheard.length > 0 && (
        <p className="loss wrap-anywhere">
          It reads {looked.unheard.join(', ')} too, of whose changes nothing is heard: name{' '}
          {looked.unheard.length === 1 ? 'it' : 'them'} among the tables, or see them when everything is compared.
        </p>
      )}
      <Rows looked={looked} />
      <details className="pt-2">
        <summary className="quiet small cursor-pointer">How the database would answer it</summary>
        <pre dir="ltr" tabIndex={0} className="boxed-code max-h-[260px] overflow-auto p-3 text-[12px]">
          {planned.lines.join('\n')}
        </pre>
      </details>
    </section>
  )
}

function Rows({ looked }: { looked: Looked }) {
  return (
    <div className="max-h-[340px] overflow-auto pt-2" tabIndex={0} role="group" aria-label="Rows">
      <table className="text-left">
        <thead>
          <tr className="line-b align-bottom">
            {looked.fields.map((field) => (
              <th key={field.name} scope="col" className="py-1 pr-4 font-normal whitespace-nowrap">
                <b className="font-semibold">{field.name}</b>
                <span className="quiet small block" title={writtenType(field.name, looked.columns)}>
                  {field.kind}
                  {field.several && ', several'}
                  {field.role && ` · ${field.role}`}
                </span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {looked.rows.map((row, number) =>
            row.reason ? (
              <tr key={number} className="line-b">
                <td colSpan={looked.fields.length} className="loss small py-1">
                  {row.key}: {row.reason}
                </td>
              </tr>
            ) : (
              <tr key={number} className="line-b align-baseline">
                {looked.fields.map((field) => (
                  <td
                    key={field.name}
                    dir="auto"
                    className="small max-w-[260px] min-w-[60px] truncate py-1 pr-4"
                    title={cellText(row.values[field.name])}
                  >
                    {cellText(row.values[field.name])}
                  </td>
                ))}
              </tr>
            ),
          )}
        </tbody>
      </table>
    </div>
  )
}

function cellText(value: unknown): string {
  if (value === undefined || value === null) return ''
  if (Array.isArray(value)) return value.map(String).join(' · ')
  return String(value)
}

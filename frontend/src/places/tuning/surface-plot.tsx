// The two knobs that matter most, turned together: the darker the better.
import type { Surface, TuningReport } from '../../api/tuning'
import { TakeAway } from '../../parts/take-away'
import { measureText } from '../../thinking/figures'
import { cellsOf, shadeOf, valueText } from '../../thinking/tuning'

export function SurfacePlot({ report, surface }: { report: TuningReport; surface: Surface }) {
  const [row, column] = [report.knobs[surface.rows], report.knobs[surface.columns]]
  const cells = cellsOf(surface)
  if (!row || !column || cells.length === 0) return null
  const shade = shadeOf(cells)
  const best = cells.reduce((one, other) => (other.mean > one.mean ? other : one))
  const table = () => [
    [row.name, column.name, report.measure],
    ...cells.map((one) => [
      valueText(surface.row_values[one.row]),
      valueText(surface.column_values[one.column]),
      one.mean,
    ]),
  ]
  return (
    <>
      <div className="flex items-baseline gap-3 pt-4">
        <h3 className="heading quiet">
          {row.name} and {column.name} together
        </h3>
        <TakeAway what="the surface" file={`${report.judged_set}-surface`} rows={table} />
      </div>
      <div className="overflow-x-auto pb-6" tabIndex={0} role="region" aria-label="Surface of two knobs">
        <table className="border-separate border-spacing-[2px] text-center">
          <thead>
            <tr className="quiet small">
              <th scope="col" className="pr-2 text-right font-normal">
                {row.name} ↓ {column.name} →
              </th>
              {surface.column_values.map((value, i) => (
                <th key={i} scope="col" className="figure min-w-12 font-normal">
                  {valueText(value)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {surface.means.map((line, i) => (
              <tr key={i}>
                <th scope="row" className="figure quiet small pr-2 text-right font-normal">
                  {valueText(surface.row_values[i])}
                </th>
                {line.map((mean, j) => (
                  <td
                    key={j}
                    className="figure h-7 px-1 text-[12px]"
                    style={
                      mean === null
                        ? {}
                        : {
                            background: `color-mix(in oklab, var(--gain) ${Math.round(shade(mean) * 45)}%, transparent)`,
                          }
                    }
                  >
                    {mean === null ? '–' : measureText(mean)}
                    {best.row === i && best.column === j && <span aria-label="the best"> ▲</span>}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  )
}

// What is different between two rankers, side by side: what it was and what it is.
import type { Schemas } from '../api/client'

export type Difference = Schemas['Difference']

export const differencesText = (all: Difference[] | undefined): string => (all ?? []).map((one) => one.words).join('; ')

// heads: what the two sides are called.
export function Differences({ all, heads }: { all: Difference[]; heads: [string, string] }) {
  return (
    <table className="small w-full table-fixed border-collapse text-left">
      <thead>
        <tr className="quiet">
          <th scope="col" className="w-[34%] py-0.5 pr-2 font-normal">
            <span className="sr-only">What</span>
          </th>
          {heads.map((head) => (
            <th key={head} scope="col" className="py-0.5 pr-2 font-normal">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {all.map((one, i) => (
          <tr key={i} className="line-t align-top">
            <th scope="row" className="quiet py-0.5 pr-2 font-normal wrap-anywhere">
              {one.what}
            </th>
            <td className="py-0.5 pr-2 wrap-anywhere">{one.before || '–'}</td>
            <td className="py-0.5 font-semibold wrap-anywhere">{one.after || '–'}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

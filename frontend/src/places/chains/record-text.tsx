// The text that goes down: the record's, its letters marked where they met, or one's own.
import type { Meeting } from '../../api/queries'
import { MarkedText } from '../../parts/marked-text'
import type { Grid } from '../../thinking/columns'
import { pieces } from '../../thinking/marks'
import type { Lit } from './meeting-grid'

export function RecordText(props: {
  field: string
  // Whether the record has not come yet: nothing is known of its text.
  pending: boolean
  text: string
  edited: string | null
  onEdit: (text: string) => void
  longest: number
  layout: { recordGrid: Grid } | null
  lit: Lit | null
  meeting: Meeting | null
}) {
  const { text, edited, layout, lit } = props
  // The letters of the record's tokens that moored, or of the one that is lit.
  const moored = new Set(props.meeting?.moorings.flatMap((mooring) => mooring.record_tokens) ?? [])
  const marked =
    layout?.recordGrid.columns.filter((column, i) =>
      lit === null ? column.finals.some((final) => moored.has(final)) : lit.record.has(i),
    ) ?? []
  const stretches = props.meeting ? marked.map((column) => [column.start, column.end] as const) : []
  return (
    <div className="line-b px-4 py-2">
      {edited === null ? (
        <p aria-label="The record's text" className="max-h-[66px] overflow-y-auto whitespace-pre-line wrap-anywhere">
          {props.pending ? (
            <span className="quiet">Fetching the record …</span>
          ) : text === '' ? (
            <span className="quiet">This record has no {props.field}.</span>
          ) : (
            <MarkedText pieces={pieces(text, stretches)} />
          )}
        </p>
      ) : (
        <textarea
          dir="auto"
          aria-label="A text of your own"
          className="h-[66px] w-full resize-none bg-transparent"
          maxLength={props.longest}
          value={edited}
          autoFocus
          onChange={(event) => props.onEdit(event.target.value)}
        />
      )}
    </div>
  )
}

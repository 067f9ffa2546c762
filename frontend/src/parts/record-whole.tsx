// A record as a judge reads it: title, picture, and every shown field in full, what the query matched marked.
import type { Collection } from '../api/queries'
import { pieces, type Stretch } from '../thinking/marks'
import { shownFields, titleOf, valueText } from '../thinking/records'
import { MarkedText } from './marked-text'

export function RecordWhole(props: {
  // Where its picture is.
  picture: string
  display: Collection['display']
  recordKey: string
  values: Record<string, unknown>
  marks: Record<string, Stretch[]>
}) {
  const shown = shownFields({ display: props.display })
  const picture = shown.picture === null ? '' : valueText(props.values[shown.picture])
  const title = titleOf(shown, props.recordKey, props.values)
  const own = shown.title !== null && title === valueText(props.values[shown.title])
  const small = shown.line.filter((field) => valueText(props.values[field]) !== '')
  return (
    <div>
      {picture !== '' && (
        <img
          src={props.picture}
          alt=""
          className="float-right ml-4 max-h-[140px] max-w-[180px] bg-base-200 p-2"
          onError={(event) => {
            event.currentTarget.style.display = 'none'
          }}
        />
      )}
      <h2 dir="auto" className="pb-1 text-[19px] font-semibold wrap-anywhere">
        <MarkedText pieces={pieces(title, own && shown.title !== null ? (props.marks[shown.title] ?? []) : [])} />
      </h2>
      {shown.blocks.map(({ field }) => {
        const text = valueText(props.values[field])
        return text === '' ? null : (
          <p
            key={field}
            dir="auto"
            title={field}
            className="pb-2 text-[16px] leading-[1.5] whitespace-pre-line wrap-anywhere"
          >
            <MarkedText pieces={pieces(text, props.marks[field] ?? [])} />
          </p>
        )
      })}
      <dl className="small grid grid-cols-[auto_minmax(0,1fr)] gap-x-4 gap-y-[2px] pt-1">
        {small.map((field) => (
          <div key={field} className="contents">
            <dt className="quiet">{field}</dt>
            <dd dir="auto" className="wrap-anywhere">
              <MarkedText pieces={pieces(valueText(props.values[field]), props.marks[field] ?? [])} />
            </dd>
          </div>
        ))}
      </dl>
    </div>
  )
}

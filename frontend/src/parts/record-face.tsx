// A record as it looks in every list: picture, title, chosen fields, with what a query matched marked.
import { here } from '../api/base'
import { listed, pieces, shortened, type Passage, type Stretch } from '../thinking/marks'
import { titleOf, valueText, type Shown } from '../thinking/records'
import { MarkedText } from './marked-text'

export function RecordFace(props: {
  collection: string
  shown: Shown
  recordKey: string
  values: Record<string, unknown>
  marks?: Record<string, Stretch[]>
  // The best of each field that the query's words are found in.
  passages?: readonly Passage[]
  // On one line: the title and what stands beside it.
  compact?: boolean
}) {
  const { shown, values, recordKey } = props
  const marksOf = (field: string | null): Stretch[] => (field === null ? [] : (props.marks?.[field] ?? []))
  const shortOf = (field: string, text: string) =>
    shortened(
      text,
      marksOf(field),
      props.passages?.find((one) => one.field === field),
    )
  const textOf = (field: string) => valueText(values[field])
  const title = titleOf(shown, recordKey, values)
  const isTitle = shown.title !== null && title === textOf(shown.title)
  const line = shown.line.map((field) => ({ field, text: textOf(field) })).filter(({ text }) => text !== '')
  const facts = line.map(({ field, text }, i) => (
    <span key={field} title={field}>
      {i > 0 && ' · '}
      <bdi>
        <MarkedText pieces={listed(pieces(text, marksOf(field)))} />
      </bdi>
    </span>
  ))
  const whatItIs = <MarkedText pieces={pieces(title, isTitle ? marksOf(shown.title) : [])} />
  // What was matched, where that is not the title.
  const matched = shown.blocks
    .map(({ field }) => ({ field, text: textOf(field) }))
    .find(({ field }) => marksOf(field).length > 0)
  if (props.compact)
    return (
      <span className="block min-w-0 truncate" dir="auto">
        <span className={`font-semibold ${matched ? 'inline-block max-w-[60%] truncate align-bottom' : ''}`}>
          {whatItIs}
        </span>
        {matched ? (
          <span className="pl-3 text-[14px]" title={matched.field}>
            <MarkedText pieces={shortOf(matched.field, matched.text)} />
          </span>
        ) : (
          facts.length > 0 && <span className="quiet small pl-3">{facts}</span>
        )}
      </span>
    )
  return (
    <span className="flex min-w-0 gap-3">
      {shown.picture !== null && <Picture collection={props.collection} name={textOf(shown.picture)} />}
      <span className="min-w-0 flex-1">
        <span dir="auto" className="block font-semibold wrap-anywhere">
          {whatItIs}
        </span>
        {shown.blocks.map(({ field, length }) => {
          const text = textOf(field)
          if (text === '') return null
          return length === 'short' ? (
            <span key={field} dir="auto" title={field} className="line-clamp-2 text-[14px] wrap-anywhere">
              <MarkedText pieces={shortOf(field, text)} />
            </span>
          ) : (
            <span key={field} dir="auto" title={field} className="block text-[14px] whitespace-pre-line wrap-anywhere">
              <MarkedText pieces={pieces(text, marksOf(field))} />
            </span>
          )
        })}
        {facts.length > 0 && <span className="quiet small block truncate">{facts}</span>}
      </span>
    </span>
  )
}

// The place of a picture stays where there is none, so that titles stand in line.
function Picture({ collection, name }: { collection: string; name: string }) {
  return (
    <span
      className={`mt-[2px] grid h-[42px] w-[42px] shrink-0 place-items-center overflow-hidden ${name === '' ? '' : 'bg-base-200'}`}
    >
      {name !== '' && (
        <img
          src={here(
            `/api/collections/${encodeURIComponent(collection)}/pictures/${encodeURIComponent(name)}?small=true`,
          )}
          alt=""
          loading="lazy"
          className="max-h-full max-w-full"
          onError={(event) => {
            event.currentTarget.style.visibility = 'hidden'
          }}
        />
      )}
    </span>
  )
}

// Looking into a space: what is nearest to words or to records, as a list and on a map.
import { TakeAway } from '../../parts/take-away'
import { useQuery } from '@tanstack/react-query'
import type { Schemas } from '../../api/client'
import type { Collection } from '../../api/queries'
import { nearest, spaceMap, type Space, type Wanted } from '../../api/spaces'
import { Kept, Unanswered } from '../../parts/answered'
import { RecordFace } from '../../parts/record-face'
import { useAddress } from '../../shell/address'
import { scoreText } from '../../thinking/figures'
import { shownFields, titleOf } from '../../thinking/records'
import { SpaceMapView } from './space-map'

const keysOf = (param: string | null) => param?.split(' ').filter(Boolean) ?? []

export function LookInto({ collection, space }: { collection: Collection; space: Space }) {
  const { params, change } = useAddress()
  const liked = keysOf(params.get('like'))
  const disliked = keysOf(params.get('unlike'))
  const text = params.get('q') ?? ''
  const byExamples = liked.length > 0
  const wanted: Wanted = byExamples ? { text: '', liked, disliked } : { text, liked: [], disliked: [] }
  const asks = byExamples || text.trim() !== ''
  const state = (space.report?.vectors ?? 0) + (space.dimensions ?? 0)
  const found = useQuery({ ...nearest(collection.name, space.name, wanted, 10, state), enabled: asks })
  const map = useQuery(spaceMap(collection.name, space.name, asks && !found.isError ? wanted : null, state))
  const put = (like: string[], unlike: string[]) =>
    change({ like: like.join(' ') || null, unlike: unlike.join(' ') || null })
  return (
    <div className="panes grid grid-cols-[minmax(0,1fr)_minmax(0,480px)]">
      <section aria-label="Nearest records" className="line-r min-w-0">
        <div className="line-b px-6 py-2">
          <h2 className="heading">
            {byExamples ? 'Like' : 'Nearest to'}{' '}
            {!byExamples && <span className="font-normal">“{text.trim() || '…'}”</span>}
            <Examples liked={liked} disliked={disliked} onPut={put} />
            {(found.data?.length ?? 0) > 0 && (
              <TakeAway
                what="the nearest records"
                file="nearest"
                rows={() => [
                  ['key', 'title', 'alike'],
                  ...(found.data ?? []).map((one) => [
                    one.key,
                    titleOf(shownFields(collection), one.key, one.field_values),
                    one.similarity,
                  ]),
                ]}
              />
            )}
          </h2>
          <p className="quiet small">
            {byExamples
              ? 'The mean of what is liked, away from what is not.'
              : 'Type above (/), or choose “like this” on a row.'}
          </p>
        </div>
        {!asks && <p className="quiet px-6 py-3">No query yet: type one above (/).</p>}
        {asks && !found.data && <Unanswered asked={[found]} what="neighbours" />}
        {asks && found.data && (
          <Kept asked={[found]} what="neighbours">
            <ol>
              {found.data.map((one) => (
                <Row
                  key={one.key}
                  collection={collection}
                  one={one}
                  onLike={() =>
                    put(
                      [...new Set([...liked, one.key])],
                      disliked.filter((key) => key !== one.key),
                    )
                  }
                  onUnlike={byExamples ? () => put(liked, [...new Set([...disliked, one.key])]) : null}
                />
              ))}
            </ol>
          </Kept>
        )}
      </section>
      <section aria-label="Map of the space" className="min-w-0 px-4 py-2">
        {map.data ? (
          <Kept asked={[map]} what="the map">
            <SpaceMapView map={map.data} onLike={(key) => put([key], [])} />
          </Kept>
        ) : (
          <Unanswered asked={[map]} what="the map" />
        )}
      </section>
    </div>
  )
}

function Row(props: {
  collection: Collection
  one: Schemas['Neighbour']
  onLike: () => void
  onUnlike: (() => void) | null
}) {
  const { one } = props
  const shown = shownFields(props.collection)
  return (
    <li className="line-b flex gap-3 px-6 py-2" data-row={one.key}>
      <span className="figure w-[22px] shrink-0 font-semibold">{one.rank}</span>
      <span className="min-w-0 flex-1">
        <RecordFace collection={props.collection.name} shown={shown} recordKey={one.key} values={one.field_values} />
        {one.passage && one.passage.field !== shown.title && (
          <span className="small block truncate pl-[54px]" title={one.passage.text}>
            <span className="quiet">nearest passage, {one.passage.field}:</span> {one.passage.text}
          </span>
        )}
        <span className="small flex gap-4 pl-[54px]">
          <button type="button" className="link" onClick={props.onLike}>
            like this
          </button>
          {props.onUnlike && (
            <button type="button" className="link" onClick={props.onUnlike}>
              not like this
            </button>
          )}
        </span>
      </span>
      <span className="figure">{scoreText(one.similarity)}</span>
    </li>
  )
}

function Examples(props: {
  liked: string[]
  disliked: string[]
  onPut: (liked: string[], disliked: string[]) => void
}) {
  const { liked, disliked, onPut } = props
  return (
    <>
      {liked.map((key) => (
        <Example
          key={key}
          name={key}
          onDrop={() =>
            onPut(
              liked.filter((one) => one !== key),
              disliked,
            )
          }
        />
      ))}
      {disliked.length > 0 && <span className="font-normal"> and away from</span>}
      {disliked.map((key) => (
        <Example
          key={key}
          name={key}
          onDrop={() =>
            onPut(
              liked,
              disliked.filter((one) => one !== key),
            )
          }
        />
      ))}
    </>
  )
}

function Example({ name, onDrop }: { name: string; onDrop: () => void }) {
  return (
    <span className="ml-2 border-b border-primary font-normal">
      <code>{name}</code>
      <button type="button" aria-label={`Leave ${name} out`} className="px-1" onClick={onDrop}>
        ×
      </button>
    </span>
  )
}

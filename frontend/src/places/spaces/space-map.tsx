// The space from above: every record a dot, what is looked for a cross, its neighbours numbered.
import { useCallback, useState } from 'react'
import type { SpaceMap } from '../../api/spaces'
import { Plotted, pressed, type Plotter } from '../../parts/plotted'
import { countText } from '../../thinking/figures'
import { square, type Dot } from '../../thinking/space-map'

const SIZE = 440

export function SpaceMapView({ map, onLike }: { map: SpaceMap; onLike: (key: string) => void }) {
  const [over, setOver] = useState<Dot | null>(null)
  const make = useCallback((plotter: Plotter) => fromAbove(plotter, map, onLike, setOver), [map, onLike])
  const near = map.points.filter(isNear).length
  return (
    <figure>
      <div
        className="max-w-full border border-base-300"
        style={{ width: SIZE + 2 }}
        onPointerLeave={() => setOver(null)}
      >
        <Plotted
          make={make}
          what={`Map of ${countText(map.points.length)} records, ${near} of them numbered`}
          width={SIZE}
          height={SIZE}
        />
      </div>
      <figcaption className="small pt-1">
        <span dir="auto" className="block h-[20px] truncate font-semibold">
          {over ? `${over.title || over.key}` : ''}
        </span>
        <span className="quiet">
          {countText(map.points.length)} of {countText(map.records)} records, on the two directions in which they differ
          most ({Math.round(map.kept * 100)} % of all difference). A flat picture of{' '}
          {map.points.length > 0 ? 'many' : 'no'} dimensions: near here is a hint, the list says how near.
        </span>
      </figcaption>
    </figure>
  )
}

const isNear = (dot: Dot) => dot.rank > 0 || dot.example

function fromAbove(
  { dot, link, text }: Plotter,
  map: SpaceMap,
  onLike: (key: string) => void,
  onOver: (dot: Dot) => void,
) {
  const { x, y } = square(map)
  const near = map.points.filter(isNear)
  const others = map.points.filter((one) => !isNear(one))
  const deeds = { onPress: (one: Dot) => onLike(one.key), onOver }
  const wanted = map.wanted ? [{ x: map.wanted[0], y: map.wanted[1] }] : []
  return {
    margin: 14,
    x: { domain: x, axis: null },
    y: { domain: y, axis: null },
    marks: [
      dot(others, {
        ...{ x: 'x', y: 'y', r: 2.2, fill: 'currentColor', fillOpacity: 0.26 },
        render: pressed(others, deeds),
      }),
      ...wanted.map((at) =>
        link(near, { x1: at.x, y1: at.y, x2: 'x', y2: 'y', stroke: 'var(--meaning)', strokeOpacity: 0.35 }),
      ),
      dot(near, {
        ...{ x: 'x', y: 'y', r: 4.5 },
        fill: (one: Dot) => (one.example ? 'var(--color-primary)' : 'var(--meaning)'),
        render: pressed(near, deeds),
      }),
      text(near, {
        ...{ x: 'x', y: 'y', dx: 6, textAnchor: 'start' as const, fontSize: 12 },
        ...{ fill: 'currentColor', stroke: 'var(--color-base-100)', strokeWidth: 3 },
        text: (one: Dot) => (one.rank > 0 ? String(one.rank) : 'example'),
        render: pressed(near, deeds),
      }),
      dot(wanted, { x: 'x', y: 'y', symbol: 'plus', r: 8, stroke: 'var(--color-primary)', strokeWidth: 2.4 }),
    ],
  }
}

// The space from above: every record a dot, what is looked for a cross, its neighbours numbered.
import { useState } from 'react'
import type { SpaceMap } from '../../api/spaces'
import { countText } from '../../thinking/figures'
import { scaled, type Dot } from '../../thinking/space-map'

const SIZE = 440

export function SpaceMapView({ map, onLike }: { map: SpaceMap; onLike: (key: string) => void }) {
  const [over, setOver] = useState<Dot | null>(null)
  const { dots, wanted } = scaled(map, SIZE)
  const near = dots.filter((dot) => dot.rank > 0 || dot.example)
  return (
    <figure>
      <svg
        viewBox={`0 0 ${SIZE} ${SIZE}`}
        className="w-full border border-base-300"
        role="img"
        aria-label={`Map of ${countText(map.points.length)} records, ${near.length} of them numbered`}
        onMouseLeave={() => setOver(null)}
      >
        {dots
          .filter((dot) => dot.rank === 0 && !dot.example)
          .map((dot) => (
            <circle
              key={dot.key}
              cx={dot.x}
              cy={dot.y}
              r="2.2"
              fill="var(--color-base-content)"
              fillOpacity="0.26"
              className="cursor-pointer"
              onMouseEnter={() => setOver(dot)}
              onClick={() => onLike(dot.key)}
            />
          ))}
        {wanted &&
          near.map((dot) => (
            <line
              key={dot.key}
              x1={wanted.x}
              y1={wanted.y}
              x2={dot.x}
              y2={dot.y}
              stroke="var(--meaning)"
              strokeOpacity="0.35"
            />
          ))}
        {near.map((dot) => (
          <g key={dot.key} className="cursor-pointer" onMouseEnter={() => setOver(dot)} onClick={() => onLike(dot.key)}>
            <circle cx={dot.x} cy={dot.y} r="4.5" fill={dot.example ? 'var(--color-primary)' : 'var(--meaning)'} />
            <text
              x={dot.x + 6}
              y={dot.y + 4}
              fontSize="12"
              fill="var(--color-base-content)"
              stroke="var(--color-base-100)"
              strokeWidth="3"
              paintOrder="stroke"
            >
              {dot.rank > 0 ? dot.rank : 'example'}
            </text>
          </g>
        ))}
        {wanted && (
          <path
            d={`M${wanted.x - 7} ${wanted.y}h14M${wanted.x} ${wanted.y - 7}v14`}
            stroke="var(--color-primary)"
            strokeWidth="2.4"
          />
        )}
      </svg>
      <figcaption className="small pt-1">
        <span className="block h-[20px] truncate font-semibold">{over ? `${over.title || over.key}` : ''}</span>
        <span className="quiet">
          {countText(map.points.length)} of {countText(map.records)} records, on the two directions in which they differ
          most ({Math.round(map.kept * 100)} % of all difference). A flat picture of{' '}
          {map.points.length > 0 ? 'many' : 'no'} dimensions: near here is a hint, the list says how near.
        </span>
      </figcaption>
    </figure>
  )
}

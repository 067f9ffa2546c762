import { Link, useSearchParams } from 'react-router'
import { carried } from './address'
import { turnTheme } from './theme'

const PLACES = [
  { place: 'records', name: 'Records', glyph: 'M5 4h11l3 3v13H5zM8 9h8M8 13h8M8 17h5' },
  { place: 'chains', name: 'Chains', glyph: 'M4 8h5m6 0h5M9 5h6v6H9zM4 17h3m10 0h3M7 14h4v6H7zm6 0h4v6h-4z' },
  { place: 'spaces', name: 'Spaces', glyph: 'M4 20V4m0 16h16M8.5 9h1M12.5 12.5h1M16.5 7.5h1M9 16h1M16 16h1' },
  { place: 'ranking', name: 'Ranking', glyph: 'M4 6h16M4 12h11M4 18h6' },
  { place: 'judging', name: 'Judging', glyph: 'M12 4v16M5 20h14M12 6 5 9m7-3 7 3M5 9l-2.5 5h5zm14 0-2.5 5h5z' },
  { place: 'measures', name: 'Measures', glyph: 'M3 13h18M6 13V6m4 7V9m4 4v5m4-5v3' },
]

export function Rail(props: { collection: string; place: string; onKeys: () => void }) {
  const [params] = useSearchParams()
  return (
    <nav aria-label="Places" className="line-r row-span-2 flex flex-col items-stretch bg-base-200">
      <Link to="/" aria-label="Pale Harbor" title="Pale Harbor" className="grid h-[52px] place-items-center">
        <img src="/favicon.svg" alt="" width="28" height="28" />
      </Link>
      {PLACES.map(({ place, name, glyph }) => {
        const here = place === props.place
        return (
          <Link
            key={place}
            to={`/${props.collection}/${place}${carried(params)}`}
            aria-current={here ? 'page' : undefined}
            className={`flex flex-col items-center gap-1 border-l-[3px] py-3 text-[13px] ${
              here ? 'border-primary font-semibold' : 'quiet border-transparent hover:bg-base-300/50'
            }`}
          >
            <svg viewBox="0 0 24 24" width="20" height="20" fill="none" stroke="currentColor" strokeWidth="1.6" strokeLinecap="round" aria-hidden>
              <path d={glyph} />
            </svg>
            {name}
          </Link>
        )
      })}
      <div className="flex-1" />
      <button type="button" className="quiet py-2 text-[13px] hover:bg-base-300/50" title="Day or night (t)" onClick={turnTheme}>
        <span className="in-data-[theme=deep]:hidden">Night</span>
        <span className="hidden in-data-[theme=deep]:inline">Day</span>
      </button>
      <button type="button" className="quiet pt-2 pb-4 text-[13px] hover:bg-base-300/50" title="Keys (?)" onClick={props.onKeys}>
        Keys
      </button>
    </nav>
  )
}

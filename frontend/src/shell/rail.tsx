import { here } from '../api/base'
import { Link, useSearchParams } from 'react-router'
import { carried } from './address'
import { PLACES } from './places'
import { turnTheme } from './theme'

export function Rail(props: { collection: string; place: string; onKeys: () => void; onFind: () => void }) {
  const [params] = useSearchParams()
  return (
    <nav aria-label="Places" className="line-r row-span-2 flex flex-col items-stretch bg-base-200">
      <Link to="/" aria-label="Pale Harbor" title="Pale Harbor" className="grid h-[52px] place-items-center">
        <img src={here('/favicon.svg')} alt="" width="28" height="28" />
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
            <svg
              viewBox="0 0 24 24"
              width="20"
              height="20"
              fill="none"
              stroke="currentColor"
              strokeWidth="1.6"
              strokeLinecap="round"
              aria-hidden
            >
              <path d={glyph} />
            </svg>
            {name}
          </Link>
        )
      })}
      <div className="flex-1" />
      <button
        type="button"
        className="quiet py-2 text-[13px] hover:bg-base-300/50"
        title="Find a place, an action, a ranker, a query or a record (Ctrl k)"
        onClick={props.onFind}
      >
        Find
      </button>
      <button
        type="button"
        className="quiet py-2 text-[13px] hover:bg-base-300/50"
        title="Day or night (t)"
        onClick={turnTheme}
      >
        <span className="in-data-[theme=deep]:hidden">Night</span>
        <span className="hidden in-data-[theme=deep]:inline">Day</span>
      </button>
      <button
        type="button"
        className="quiet pt-2 pb-4 text-[13px] hover:bg-base-300/50"
        title="Keys (?)"
        onClick={props.onKeys}
      >
        Keys
      </button>
    </nav>
  )
}

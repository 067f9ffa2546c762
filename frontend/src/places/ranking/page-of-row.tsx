// The page that a row is, and the other pages of the same thing on which something was found, with how much.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { here } from '../../api/base'
import { search, type Collection, type Filter, type Result } from '../../api/queries'
import { Kept } from '../../parts/answered'
import { PageViewer } from '../../scans/page-viewer'
import type { Draft } from '../../shell/use-draft'
import { countText } from '../../thinking/figures'
import { pagesOfThing, thingField, type PageFound } from '../../thinking/reading'
import { valueText } from '../../thinking/records'

type Asked = {
  collection: Collection
  draft: Draft
  query: string
  row: Result
  filters: Filter[]
  language: string | null
  typed: boolean
}

const MOST_PAGES = 100

export function PageOfRow(props: Asked) {
  const { collection, row } = props
  // Of the row that it was chosen beside: another row begins with its own page.
  const [chosen, choose] = useState({ of: row.key, key: row.key })
  const { asked, pages, more } = usePages(props)
  const key = chosen.of === row.key ? chosen.key : row.key
  const shown = pages.find((one) => one.key === key) ?? { marks: row.marks, values: row.field_values }
  return (
    <div className="flex h-full min-h-0 flex-col">
      {pages.length > 1 && (
        <Kept asked={[asked]} what="the pages" className="shrink-0">
          <nav
            aria-label="Pages of the same thing"
            className="line-b flex items-center gap-1 overflow-x-auto px-3 py-1"
          >
            {pages.map((one) => (
              <Thumbnail
                key={one.key}
                collection={collection.name}
                page={one}
                open={one.key === key}
                onOpen={() => choose({ of: row.key, key: one.key })}
              />
            ))}
            {more > 0 && <span className="small quiet whitespace-nowrap">and {countText(more)} more</span>}
          </nav>
        </Kept>
      )}
      <div className="min-h-0 flex-1">
        <PageViewer
          collection={collection.name}
          recordKey={key}
          marks={shown.marks}
          areOf={(field, text) => valueText(shown.values[field]) === text}
        />
      </div>
    </div>
  )
}

// Those of the thing that the row is of, whatever the list shows one of; more: how many are found beside the best ones.
function usePages({ collection, draft, query, row, filters, language, typed }: Asked) {
  const field = thingField(collection.fields, draft.document.one_per ?? null)
  const thing = field === null ? '' : valueText(row.field_values[field])
  const asked = useQuery({
    ...search(collection.name, query, { document: { ...draft.document, one_per: null } }, MOST_PAGES, {
      filters: [...filters, { field: field ?? '', one_of: [thing] }],
      language,
      typed,
    }),
    enabled: thing !== '' && query.trim() !== '',
  })
  // What is kept of another thing meanwhile is not shown for this one.
  const own = (asked.data?.results ?? []).filter((one) => valueText(one.field_values[field ?? '']) === thing)
  const pages = thing === '' ? [] : pagesOfThing(own, collection.fields)
  return { asked, pages, more: Math.max(0, (asked.data?.rows ?? 0) - MOST_PAGES) }
}

function Thumbnail(props: { collection: string; page: PageFound; open: boolean; onOpen: () => void }) {
  const { page } = props
  const hits = `${countText(page.hits)} ${page.hits === 1 ? 'match' : 'matches'}`
  return (
    <button
      type="button"
      aria-current={props.open ? 'page' : undefined}
      aria-label={`${page.name}, ${hits}`}
      title={`${page.name}, ${hits}`}
      className={`flex w-[46px] shrink-0 cursor-pointer flex-col items-center border-b-2 pb-[2px] ${props.open ? 'border-primary font-semibold' : 'border-transparent'}`}
      onClick={props.onOpen}
    >
      <span className="grid h-[44px] w-[38px] place-items-center overflow-hidden bg-base-200">
        {page.picture !== '' && (
          <img
            src={here(
              `/api/collections/${encodeURIComponent(props.collection)}/pictures/${encodeURIComponent(page.picture)}?small=true`,
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
      <span className="small figure">{countText(page.hits)}</span>
    </button>
  )
}

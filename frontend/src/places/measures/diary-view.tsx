// The diary: what was decided about rankers, and when the locked queries were opened.
import { useQuery } from '@tanstack/react-query'
import { diaryOf } from '../../api/judging'
import type { Collection } from '../../api/queries'
import { Empty, Loading, ProblemNote } from '../../parts/notes'

export function DiaryView({ collection }: { collection: Collection }) {
  const found = useQuery(diaryOf(collection.name))
  if (found.isPending) return <Loading what="the diary" />
  if (found.isError) return <ProblemNote error={found.error} />
  if (found.data.length === 0) {
    return <Empty title="Nothing in the diary yet">Decisions are written on the owner’s page. Each opening of the locked queries writes itself down.</Empty>
  }
  return (
    <ol className="h-full max-w-[90ch] overflow-y-auto px-4 py-2" aria-label="Diary">
      {found.data.map((one) => (
        <li key={one.id} className="line-b grid grid-cols-[140px_110px_minmax(0,1fr)] gap-2 py-2">
          <time className="quiet small" dateTime={one.written_at}>
            {one.written_at.slice(0, 16).replace('T', ' ')}
          </time>
          <span className="quiet small">{one.kind}</span>
          <span className="wrap-anywhere">
            <b className="font-semibold">{one.title}</b> {one.body}
            {Array.isArray(one.details.rankers) && one.kind === 'decision' && <span className="quiet small block">{one.details.rankers.join(' and ')}</span>}
          </span>
        </li>
      ))}
    </ol>
  )
}

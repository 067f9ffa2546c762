// The records of the query in view, each with what was said of it.
import type { JudgeWork } from '../../api/judging'
import { GradeRungs } from '../../parts/grade-rungs'
import { pairOf } from '../../thinking/outbox'
import type { Desk } from './use-desk'

export function RecordsOfQuery({ desk, query }: { desk: Desk; query: JudgeWork['queries'][number] }) {
  return (
    <>
      <h2 className="heading quiet pt-4 pb-1">This query’s records</h2>
      <ol className="flex flex-wrap gap-1">
        {query.record_keys.map((record_key, i) => {
          const said = desk.words.get(pairOf({ query_id: query.query_id, record_key })) ?? null
          return (
            <li key={record_key}>
              <button
                type="button"
                aria-label={`Record ${i + 1}${said === null ? '' : said.grade === null ? ', passed' : `, grade ${said.grade}`}`}
                aria-current={i === desk.place.record ? 'true' : undefined}
                className={`grid h-[28px] w-[28px] cursor-pointer place-items-center border-b-[3px] ${i === desk.place.record ? 'border-primary' : 'border-transparent'}`}
                onClick={() => desk.goTo({ query: desk.place.query, record: i })}
              >
                {said?.grade === null ? <span aria-hidden>x</span> : <GradeRungs grade={said?.grade ?? undefined} />}
              </button>
            </li>
          )
        })}
      </ol>
    </>
  )
}

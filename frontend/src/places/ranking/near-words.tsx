// The terms around each word of the query, by similarity, with those that spelling slack takes: they move as it is turned.
import { useQuery } from '@tanstack/react-query'
import { nearWords, type Collection, type RankerChoice, type WordAround } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { TakeAway } from '../../parts/take-away'
import { countText } from '../../thinking/figures'

type Props = { collection: Collection; query: string; choice: RankerChoice; language: string | null }

// Words of a query in several readings; more are counted.
const MOST = 6

// Every word, those too that are only counted on the page.
const nearTable = (words: WordAround[]) => [
  ['word', 'field', 'reading', 'term', 'alike', 'edits', 'records', 'counts'],
  ...words.flatMap((word) =>
    word.near.map(({ around, worth }) => [
      ...[word.term, word.field, word.reading, around.text, around.similarity.toFixed(4)],
      ...[around.edits ?? '', around.holding, worth?.toFixed(4) ?? ''],
    ]),
  ),
]

export function NearWords({ collection, query, choice, language }: Props) {
  const asks = query.trim() !== ''
  const answer = useQuery({
    ...nearWords(collection.name, { query, ranker: choice, language }),
    enabled: asks,
  })
  if (!asks) return <p className="quiet small pt-2">Type a query to see the terms around its words.</p>
  if (!answer.data) return <Unanswered asked={[answer]} what="the terms around" />
  const words = answer.data.filter((word) => word.near.length > 0)
  return (
    <Kept asked={[answer]} what="the terms around">
      <section aria-label="Terms around the query’s words" className="pt-2">
        {words.length === 0 && <p className="quiet small">No term of the collection is near a word of the query.</p>}
        {words.length > 0 && (
          <TakeAway what="the terms around" file={`${collection.name}-terms-around`} rows={() => nearTable(words)} />
        )}
        {words.slice(0, MOST).map((word) => (
          <table key={`${word.reading} ${word.term}`} className="mb-2 w-full table-fixed text-[12px]">
            <caption className="pb-0.5 text-left">
              <b className="font-semibold wrap-anywhere">{word.term}</b>
              <span className="quiet">
                {' '}
                in {word.field}: {countText(word.holding)} {word.holding === 1 ? 'record' : 'records'}
              </span>
            </caption>
            <thead>
              <tr className="quiet text-right">
                <th className="text-left font-normal">term</th>
                <th className="w-[34px] font-normal">alike</th>
                <th className="w-[38px] font-normal">edits</th>
                <th className="w-[48px] font-normal">records</th>
              </tr>
            </thead>
            <tbody>
              {word.near.map(({ around, worth }) => (
                <tr
                  key={around.text}
                  data-taken={worth !== null}
                  title={
                    worth === null
                      ? 'Slack does not take it'
                      : `Slack takes it: it counts ${worth.toFixed(2)} of the word itself`
                  }
                  className={worth === null ? 'quiet' : 'font-semibold'}
                >
                  <td dir="auto" className="truncate font-mono">
                    <span aria-hidden>{worth === null ? '○ ' : '● '}</span>
                    {worth !== null && <span className="sr-only">taken: </span>}
                    {around.text}
                  </td>
                  <td className="figure">{around.similarity.toFixed(2)}</td>
                  <td className="figure">{around.edits ?? '–'}</td>
                  <td className="figure">{countText(around.holding)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ))}
        {words.some((word) => word.more > 0) && <p className="quiet small">Farther ones are left out.</p>}
        {words.length > MOST && <p className="quiet small">and {words.length - MOST} more words</p>}
      </section>
    </Kept>
  )
}

// The list in view: the draft's own, beside parked ones, or the lists that it is blended of.
import type { Collection } from '../../api/queries'
import { Kept, Unanswered } from '../../parts/answered'
import { Empty } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import type { Draft } from '../../shell/use-draft'
import { Beside } from './beside'
import { ListsView } from './lists-view'
import { Results } from './results'
import { SHOWN, type RankingShown } from './use-ranking'

export function ShownList(props: { collection: Collection; draft: Draft; shown: RankingShown }) {
  const { collection, draft, shown } = props
  const { list, query, choice, narrowed, narrowing, inLists, beside, before, judgedQuery, skip } = shown
  const { change } = useAddress()
  const ofWhat = list.isPlaceholderData ? 'of before the last turn' : undefined
  return (
    <>
      {!shown.asks ? (
        <Empty title="No query">
          Type one above (<kbd>/</kbd>), or open a judged query in Measures (<kbd>g m</kbd>).
        </Empty>
      ) : inLists && query.trim() !== '' ? (
        <ListsView
          collection={collection}
          query={query}
          choice={choice}
          filters={narrowed.filters}
          language={shown.language}
          judged={judgedQuery ?? null}
          chosen={shown.row?.key ?? null}
          onChoose={(key) => change({ row: key })}
        />
      ) : !list.data ? (
        <Unanswered asked={[list]} what={`the list of “${query}”`} />
      ) : beside.length > 0 ? (
        <Kept asked={[list]} what="the lists" of={ofWhat}>
          <Beside
            collection={collection}
            draft={draft}
            query={query}
            entries={beside}
            narrowing={narrowing}
            own={list.data}
            grades={judgedQuery?.grades ?? null}
            chosen={shown.row?.key ?? null}
            onChoose={(key) => change({ row: key })}
          />
        </Kept>
      ) : (
        <Kept asked={draft.isBaseline ? [list] : [list, before]} what="the list" of={ofWhat}>
          <Results
            collection={collection}
            query={query}
            draft={draft}
            answer={list.data}
            baseline={draft.isBaseline ? null : (before.data ?? null)}
            set={shown.set}
            judged={judgedQuery ?? null}
            chosen={shown.row?.key ?? null}
            onChoose={(key) => change({ row: key })}
            filtered={narrowed.filters.length > 0}
            skip={skip}
            page={SHOWN}
            onSkip={(next) => change({ skip: next ? String(next) : null, row: null }, false)}
          />
        </Kept>
      )}
    </>
  )
}

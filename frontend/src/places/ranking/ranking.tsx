// Ranking: the draft's knobs on the left, its list in the middle, why on the right, and along the
// foot what the draft did to every judged query.
import type { Collection } from '../../api/queries'
import { Empty, Loading, ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { typing, useKeys } from '../../shell/keys'
import { useDraft, type Draft } from '../../shell/use-draft'
import { SidePane } from '../../parts/side-pane'
import { Aside } from './aside'
import { CompletionsPanel } from './completions-panel'
import { ComplaintSheet } from './complaint-sheet'
import { WithCurves } from './curves'
import { Knobs } from './knobs'
import { ListBar } from './list-bar'
import { ShownList } from './shown-list'
import { useRows } from './use-rows'
import { useRanking, type RankingShown } from './use-ranking'
import { TwoKnobs } from './two-knobs'
import { TypingPlayer } from './typing-player'
import { TYPING } from '../../thinking/ranker-parts'
import { useUndo } from '../../shell/use-undo'
import { WaterlineFoot } from './waterline-foot'

export function Ranking({ collection }: { collection: Collection }) {
  const { draft, error, pending } = useDraft(collection)
  if (pending) return <Loading what="the rankers" />
  if (error) return <ProblemNote error={error} />
  if (!draft) {
    return (
      <Empty title="This collection has no ranker yet">
        Keep a first one: <code>./paleharbor ranker put {collection.name} first FILE</code>
      </Empty>
    )
  }
  return <Workbench collection={collection} draft={draft} />
}

function Workbench({ collection, draft }: { collection: Collection; draft: Draft }) {
  const { params, change } = useAddress()
  const shown = useRanking(collection, draft)
  const undo = useUndo(draft)
  useRankingKeys(shown, undo, draft)

  return (
    <div className="panes grid h-full grid-cols-[256px_minmax(0,1fr)_330px] grid-rows-[minmax(0,1fr)_auto]">
      <WithCurves collection={collection} draft={draft}>
        <SidePane side="left" name="Knobs">
          <Knobs
            collection={collection}
            draft={draft}
            undo={undo}
            query={shown.query}
            language={shown.language}
            row={shown.row?.key ?? null}
          />
        </SidePane>
        {/* Beside the pane, which a narrow window hides. */}
        {params.get('surface') !== null && <TwoKnobs undo={undo} onClose={() => change({ surface: null })} />}
      </WithCurves>
      <section aria-label="Results" className="min-h-0 overflow-y-auto">
        <ListBar
          collection={collection}
          answer={shown.list.data ?? null}
          narrowed={shown.narrowed}
          onNarrow={shown.narrow}
          onPark={shown.park}
          onComplain={() => change({ complaint: 'yes' })}
          asksSpaces={shown.asksSpaces}
          inLists={shown.inLists}
          onLists={shown.turnLists}
          typed={shown.typed}
          onTyped={() => change(typedTurned(shown.typed))}
        />
        <Completing collection={collection} draft={draft} />
        <Player collection={collection} draft={draft} undo={undo} shown={shown} />
        <ShownList collection={collection} draft={draft} shown={shown} />
      </section>
      <SidePane side="right" name="Why, why not, versions">
        <Aside
          collection={collection}
          draft={draft}
          undo={undo}
          query={shown.query}
          row={shown.row}
          results={shown.results}
          choice={shown.choice}
          set={shown.set}
          judgedQuery={shown.judgedQuery}
          filters={shown.narrowed.filters}
          language={shown.language}
          typed={shown.typed}
        />
      </SidePane>
      {params.get('complaint') !== null && (
        <ComplaintSheet
          collection={collection}
          set={shown.set}
          query={shown.query}
          record={params.get('tab') === 'not' ? (params.get('key') ?? '') : (shown.row?.key ?? '')}
          filters={shown.narrowed.filters}
          onClose={() => change({ complaint: null })}
        />
      )}
      <WaterlineFoot
        meter={shown.meter}
        asked={shown.asked}
        isMeasured={shown.set !== null}
        queries={shown.queries}
        open={shown.judgedQuery?.query_id ?? null}
        isBaseline={draft.isBaseline}
        collection={collection}
        draft={draft}
      />
    </div>
  )
}

function Completing({ collection, draft }: { collection: Collection; draft: Draft }) {
  const { params, change } = useAddress()
  const typed = params.get('completing')
  if (typed === null) return null
  return (
    <CompletionsPanel
      collection={collection}
      draft={draft}
      typed={typed}
      onTyped={(completing) => change({ completing })}
      onTake={(q) => change({ q, row: null, skip: null, at: null }, false)}
      onClose={() => change({ completing: null })}
    />
  )
}

type Place = { collection: Collection; draft: Draft; undo: ReturnType<typeof useUndo>; shown: RankingShown }

function Player({ collection, draft, undo, shown }: Place) {
  const { params, change } = useAddress()
  if (!shown.typed || shown.whole.trim() === '') return null
  // The row in view stays the one that is looked for while the list moves under it.
  const wanted = params.get('row') ?? shown.row?.key ?? null
  return (
    <TypingPlayer
      collection={collection}
      query={shown.whole}
      choice={shown.choice}
      filters={shown.narrowed.filters}
      language={shown.language}
      wanted={wanted}
      at={shown.at}
      onAt={(at) => change({ at: String(at), row: wanted, skip: null })}
      onBegin={draft.document.typing ? null : () => void undo.commit({ ...draft.document, typing: TYPING })}
    />
  )
}

// Whoever leaves off typing has the whole query again.
const typedTurned = (typed: boolean) => ({ typed: typed ? null : 'yes', at: null })

function useRankingKeys(shown: RankingShown, undo: ReturnType<typeof useUndo>, draft: Draft) {
  const { change } = useAddress()
  const [rows, setRows] = useRows()
  useKeys((event: KeyboardEvent) => {
    if (typing(event)) return
    const step = { j: 1, k: -1 }[event.key]
    if (step && !event.ctrlKey && !event.metaKey) {
      const next = shown.results[shown.results.findIndex((result) => result.key === shown.row?.key) + step]
      if (next) change({ row: next.key })
    } else if (event.key === 'b' && !event.ctrlKey && !event.metaKey) undo.commit(draft.baseline.filled_in)
    else if (event.key === 'n' && !event.ctrlKey && !event.metaKey) {
      event.preventDefault()
      change({ tab: 'not' })
    } else if (event.key === 'y' && !event.ctrlKey && !event.metaKey) change({ tab: null })
    else if (event.key === 'm' && !event.ctrlKey && !event.metaKey) change({ tab: 'missed' })
    else if (event.key === 'v' && !event.ctrlKey && !event.metaKey) change({ tab: 'versions' })
    else if (event.key === 'l' && !event.ctrlKey && !event.metaKey && shown.asksSpaces) shown.turnLists()
    else if (event.key === 'p' && !event.ctrlKey && !event.metaKey) shown.park()
    else if (event.key === 's' && !event.ctrlKey && !event.metaKey) change({ surface: 'yes' })
    else if (event.key === 't' && !event.ctrlKey && !event.metaKey) change(typedTurned(shown.typed))
    else if (event.key === 'd' && !event.ctrlKey && !event.metaKey) setRows(rows === 'compact' ? 'whole' : 'compact')
    else if (event.key === 'c' && !event.ctrlKey && !event.metaKey) {
      event.preventDefault()
      change({ complaint: 'yes' })
    }
  })
}

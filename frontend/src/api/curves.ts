// What turns of a knob would do to the judged queries.
import { queryOptions } from '@tanstack/react-query'
import { turnsTogether } from './asked-together'
import { answer, server, type Schemas } from './client'
import { keptKey } from './keeping'
import { HOW, revisionsOf, type Collection, type How, type RankerChoice } from './queries'

export type Turned = Schemas['Turned']
export type Turn = Schemas['TurnModel']

export const turnsOf = (
  collection: Collection,
  set: string,
  // With the knob itself as it is at the first turn, so that turning it asks nothing anew.
  ranker: RankerChoice,
  measure: string,
  how: Partial<How>,
  turns: Turn[],
  // What is asked of in its place, and comes to the same: the draft, which other knobs ask of too.
  draft: RankerChoice = ranker,
) =>
  queryOptions({
    ...keptKey(
      [
        'measuring',
        'turns',
        collection.name,
        set,
        turns[0]?.path,
        measure,
        ranker,
        how,
        turns,
        revisionsOf(collection, set),
      ],
      ...[6, 9],
    ),
    queryFn: ({ signal }) =>
      turnsTogether(collection.name, set, { ranker: draft, measure, how: { ...HOW, ...how } }, turns, signal),
  })

export type StageTold = Schemas['StageTold']

// The stages of a ranker's chains, each with its chain as it would be without it.
export const stagesOfRanker = (collection: Collection, ranker: RankerChoice) =>
  queryOptions({
    // Of all of the draft only chains matter here.
    queryKey: [
      'ranking',
      'stages',
      collection.name,
      { ...ranker, document: null },
      ranker.document?.readings.map((one) => [one.chain, one.query_chain]),
    ],
    queryFn: ({ signal }) =>
      answer(
        server.POST('/api/collections/{collection}/rankers/stages', {
          params: { path: { collection: collection.name } },
          body: ranker,
          signal,
        }),
      ),
    placeholderData: (before) => before,
  })

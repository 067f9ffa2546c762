// Whole suggestions while a query is typed: where they come from and which of them come first.
import { useQuery } from '@tanstack/react-query'
import { wordLists } from '../../api/chains'
import { suggestionsTold } from '../../api/completions'
import type { Collection, RankerDocument } from '../../api/queries'
import { useAddress } from '../../shell/address'
import type { Draft } from '../../shell/use-draft'
import type { Undo } from '../../shell/use-undo'
import {
  kindOf,
  PART_OF,
  sourceOf,
  sourceText,
  usualSources,
  COMPLETIONS,
  type Completions,
  type SourceKind,
  type SuggestionSource,
} from '../../thinking/completions'
import { replaced, without } from '../../thinking/ranker-parts'
import { Unanswered } from '../../parts/answered'
import { Choice, Switch } from './controls'
import { WithoutCurves } from './curves'
import { PartKnobs } from './part-knobs'
import { PastQueriesBox } from './past-queries-box'

const MOST_SOURCES = 16

export function completionsSays(draft: Draft): { says: string; moved: boolean } {
  const completions = draft.document.completions ?? null
  const sources = completions?.sources?.length ?? 0
  return {
    says: completions
      ? sources === 0
        ? 'from the usual'
        : `from ${sources} ${sources === 1 ? 'source' : 'sources'}`
      : 'off',
    moved: JSON.stringify(completions) !== JSON.stringify(draft.baseline.filled_in.completions ?? null),
  }
}

type Props = { collection: Collection; draft: Draft; undo: Undo; query: string }

export function CompletionKnobs({ collection, draft, undo, query }: Props) {
  const { change } = useAddress()
  const { document } = draft
  const completions = document.completions ? { ...COMPLETIONS, ...document.completions } : null
  const was = draft.baseline.filled_in.completions ? { ...COMPLETIONS, ...draft.baseline.filled_in.completions } : null
  return (
    <WithoutCurves>
      <Switch
        name="Suggest whole queries"
        on={completions !== null}
        onTurn={(on) => undo.commit({ ...document, completions: on ? (was ?? COMPLETIONS) : null })}
      />
      <p className="quiet small pb-1">
        Judged queries are whole: their lists stay as they are.{' '}
        <button type="button" className="link" onClick={() => change({ completing: query || 'a' })}>
          Try what is suggested
        </button>
      </p>
      {completions && <Knobs {...{ collection, draft, document, completions, was, undo }} />}
    </WithoutCurves>
  )
}

type Of = {
  collection: Collection
  draft: Draft
  document: RankerDocument
  completions: Completions
  was: Completions | null
  undo: Undo
}

function Knobs({ collection, draft, document, completions, was, undo }: Of) {
  const put = (changes: Partial<Completions>) => ({ ...document, completions: { ...completions, ...changes } })
  const { sources } = completions
  const lists = useQuery(wordLists(collection.name))
  const names = lists.data?.filter((one) => one.kind === 'words').map((one) => `@${one.name}`) ?? []
  const fields = collection.fields.map((field) => [field.name, field.name] as const)
  const add = (kind: string) =>
    undo.commit(put({ sources: [...sources, sourceOf(kind as SourceKind, fields[0]?.[0] ?? '')] }))
  return (
    <>
      {sources.length === 0 && (
        <Usual collection={collection} draft={draft} onOwn={(own) => undo.commit(put({ sources: own }))} />
      )}
      {sources.map((source, i) => (
        <Source
          key={`${i} ${kindOf(source)}`}
          {...{ collection, source, undo }}
          was={was?.sources[i]}
          put={(changes) => put({ sources: replaced(sources, i, changes) })}
          onDrop={() => undo.commit(put({ sources: without(sources, i) }))}
        />
      ))}
      {sources.length < MOST_SOURCES && (
        <Choice
          name="Add suggestions from"
          value=""
          choices={[
            ['', 'choose'],
            ['values', 'values of a field'],
            ['phrases', 'phrases of a field'],
            ['asked', 'past queries'],
          ]}
          onChoose={(kind) => kind !== '' && add(kind)}
        />
      )}
      <div className="line-t mt-2 pt-1">
        <PartKnobs part="Completions" of="" value={completions} was={was ?? undefined} put={put} undo={undo} />
        <Choice
          name="Language in"
          value={completions.language ?? ''}
          choices={[['', 'no field'], ...fields]}
          moved={(was?.language ?? null) !== (completions.language ?? null)}
          onChoose={(language) => undo.commit(put({ language: language || null }))}
        />
        <Choice
          name="Withheld"
          value={completions.withhold ?? ''}
          choices={[
            ['', 'nothing'],
            ...new Set([...names, ...(completions.withhold ? [completions.withhold] : [])]),
          ].map((one) => (typeof one === 'string' ? [one, one] : one) as [string, string])}
          moved={(was?.withhold ?? null) !== (completions.withhold ?? null)}
          onChoose={(list) => undo.commit(put({ withhold: list || null }))}
        />
      </div>
    </>
  )
}

// Where suggestions come from while no source is named, to be taken up and changed.
function Usual(props: { collection: Collection; draft: Draft; onOwn: (sources: SuggestionSource[]) => void }) {
  const told = useQuery(suggestionsTold(props.collection, props.draft.choice))
  if (!told.data) return <Unanswered asked={[told]} what="the suggestions" />
  const sources = usualSources(told.data)
  return (
    <>
      <p className="small">The usual: {sources.map(sourceText).join(', ')}.</p>
      <button type="button" className="link small" onClick={() => props.onOwn(sources)}>
        Change where they come from
      </button>
      <PastQueriesBox collection={props.collection} />
    </>
  )
}

type SourceProps = {
  collection: Collection
  source: SuggestionSource
  was: SuggestionSource | undefined
  undo: Undo
  put: (changes: Partial<SuggestionSource>) => RankerDocument
  onDrop: () => void
}

function Source({ collection, source, was, undo, put, onDrop }: SourceProps) {
  const kind = kindOf(source)
  const fields = collection.fields.map((field) => [field.name, field.name] as const)
  const numbers = collection.fields.filter((field) => field.kind === 'number').map((field) => field.name)
  const known = was && kindOf(was) === kind ? was : undefined
  return (
    <section aria-label={`Suggestions from ${sourceText(source)}`} className="line-t mt-1 pt-1">
      <div className="flex items-center justify-between gap-2">
        <span className="min-w-0 truncate font-semibold">{sourceText(source)}</span>
        <button type="button" className="link quiet small" onClick={onDrop}>
          take out<span className="sr-only"> {sourceText(source)}</span>
        </button>
      </div>
      {kind !== 'asked' && (
        <Choice
          name={kind === 'values' ? 'Values of' : 'Phrases of'}
          value={source[kind] ?? ''}
          choices={fields}
          onChoose={(field) => undo.commit(put({ [kind]: field }))}
        />
      )}
      {kind === 'values' && (
        <Choice
          name={`Weighted by, for ${sourceText(source)}`}
          label="Weighted by"
          value={source.by ?? ''}
          choices={[['', 'records'], ...numbers.map((one) => [one, one] as const)]}
          onChoose={(by) => undo.commit(put({ by: by || null }))}
        />
      )}
      {kind === 'asked' && <PastQueriesBox collection={collection} />}
      <PartKnobs part={PART_OF[kind]} of={sourceText(source)} value={source} was={known} put={put} undo={undo} />
    </section>
  )
}

// One box that finds every place, view, action, ranker, judged query, field and record by a few letters.
import { useQuery } from '@tanstack/react-query'
import { useCombobox } from 'downshift'
import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { judgedSet, type Collection } from '../api/queries'
import { recordsCalled } from '../api/records'
import { Dialog } from '../parts/dialog'
import { askedAs } from '../thinking/judging'
import { KINDS, search, type Found } from '../thinking/palette'
import { carried, useAddress } from './address'
import { PLACES } from './places'
import { turnTheme } from './theme'
import { BASELINE_PARAMS, useDraft, useSetName } from './use-draft'
import { usePaused } from '../parts/use-paused'
import {
  CHAINS_TABS,
  DELIVERY_VIEWS,
  JUDGING_VIEWS,
  MEASURES_VIEWS,
  TUNING_VIEWS,
  RANKING_TABS,
  RECORDS_VIEWS,
  type ViewName,
} from './views'

const PAUSE_MS = 150

type Props = { collection: Collection; all: Collection[]; onKeys: () => void; onClose: () => void }

export function Palette(props: Props) {
  const navigate = useNavigate()
  const [typed, setTyped] = useState('')
  const known = useKnown(props)
  const words = usePaused(typed.trim(), PAUSE_MS)
  const called = useQuery({ ...recordsCalled(props.collection.name, words), enabled: words.length > 1 })
  const { params } = useAddress()
  const records = useMemo(
    () =>
      (words === typed.trim() && words.length > 1 ? (called.data ?? []) : []).map((one): Found => ({
        kind: 'record',
        name: one.title,
        note: one.key,
        to: `/${props.collection.name}/records${carried(params, { view: 'browse', key: one.key })}`,
      })),
    [called.data, words, typed, props.collection.name, params],
  )
  const items = useMemo(() => [...search(known, typed), ...records], [known, typed, records])
  const box = useCombobox<Found>({
    items,
    inputValue: typed,
    isOpen: true,
    defaultHighlightedIndex: 0,
    selectedItem: null,
    itemToString: (item) => item?.name ?? '',
    onSelectedItemChange: ({ selectedItem }) => {
      if (!selectedItem) return
      props.onClose()
      selectedItem.act?.()
      if (selectedItem.to !== undefined) void navigate(selectedItem.to)
    },
  })
  return (
    <Dialog label="Find" className="mt-[12vh] w-[620px]" onClose={props.onClose}>
      <input
        {...box.getInputProps({
          // At once, and not after the list was told: what is chosen next is chosen of these letters.
          onChange: (event) => setTyped(event.currentTarget.value),
          // Its own list is always open: Escape closes the dialog.
          onKeyDown: (event) => event.key === 'Escape' && props.onClose(),
        })}
        autoFocus
        aria-label="Find a place, a view, an action, a ranker, a query or a record"
        placeholder="a place, an action, a ranker, a query, a record …"
        maxLength={200}
        spellCheck={false}
        dir="auto"
        className="line-b w-full bg-transparent px-4 py-3 text-[16px] outline-none"
      />
      <ul {...box.getMenuProps({ 'aria-label': 'Found' })} className="max-h-[52vh] min-h-[44px] overflow-y-auto py-1">
        {items.map((item, index) => (
          <li
            key={`${item.kind} ${item.name} ${item.note} ${index}`}
            {...box.getItemProps({ item, index })}
            className={`flex cursor-pointer items-baseline gap-3 border-l-[3px] px-3.5 py-1 ${box.highlightedIndex === index ? 'border-primary bg-base-200' : 'border-transparent'}`}
          >
            <span dir="auto" className="min-w-0 flex-1 truncate">
              {item.name}
            </span>
            <span className="quiet small max-w-[45%] truncate">{item.note}</span>
            <span className="quiet small w-[88px] text-right">{KINDS[item.kind]}</span>
          </li>
        ))}
        {items.length === 0 && <li className="quiet px-4 py-1">Nothing is called so.</li>}
      </ul>
    </Dialog>
  )
}

// Everything that has a name and is here already.
function useKnown({ collection, all, onKeys }: Props): Found[] {
  const { params, change } = useAddress()
  const { draft } = useDraft(collection)
  const set = useSetName(collection)
  const judged = useQuery({ ...judgedSet(collection.name, set ?? ''), enabled: set !== null })
  const queries = judged.data?.queries
  return useMemo(() => {
    const at = (place: string, more: Record<string, string> = {}) =>
      `/${collection.name}/${place}${carried(params, more)}`
    const views = (place: string, name: string, tabs: readonly ViewName[], by: string): Found[] =>
      tabs.map((one) => ({ kind: 'view', name: one.name, note: name, to: at(place, { [by]: one.view }) }))
    const action = (name: string, note: string, what: { to: string } | { act: () => void }): Found => ({
      kind: 'action',
      name,
      note,
      ...what,
    })
    return [
      ...PLACES.map(({ place, name, letter }): Found => ({ kind: 'place', name, note: `g ${letter}`, to: at(place) })),
      ...views('records', 'Records', RECORDS_VIEWS, 'view'),
      ...views('chains', 'Chains', CHAINS_TABS, 'aside'),
      ...views('ranking', 'Ranking', RANKING_TABS, 'tab'),
      ...views('judging', 'Judging', JUDGING_VIEWS, 'view'),
      ...views('measures', 'Measures', MEASURES_VIEWS, 'view'),
      ...views('tuning', 'Tuning', TUNING_VIEWS, 'view'),
      ...views('delivery', 'Delivery', DELIVERY_VIEWS, 'view'),
      action('Complain of this list', 'c in Ranking', { to: at('ranking', { complaint: 'yes' }) }),
      action('Load records', 'Records', { to: at('records', { view: 'import' }) }),
      action('Make a space', 'Spaces', { to: at('spaces', { new: 'yes' }) }),
      action('Publish a version', 'Delivery', { to: at('delivery', { view: 'live' }) }),
      action('Make a key for a site', 'Delivery', { to: at('delivery', { view: 'keys', new: 'visitor' }) }),
      action('Make a judged set', 'Judging', { to: at('judging', { new: 'set' }) }),
      action('Compare chains side by side', 'b in Chains', { to: at('chains', { with: 'words > lower' }) }),
      ...(draft && !draft.isBaseline
        ? [action('Discard the draft', 'b in Ranking', { act: () => change(BASELINE_PARAMS, false) })]
        : []),
      action('Day or night', 't', { act: () => void turnTheme() }),
      action('Keys', '?', { act: onKeys }),
      ...(draft?.kept ?? []).map((ranker): Found => ({
        kind: 'ranker',
        name: `${ranker.name} ${ranker.version}`,
        note: ranker.note,
        to: at('ranking', { ranker: `${ranker.name}:${ranker.version}` }),
      })),
      ...collection.fields.map((field): Found => ({
        kind: 'field',
        name: field.name,
        note: field.kind,
        to: at('records', { view: 'fields', field: field.name }),
      })),
      ...all
        .filter((one) => one.name !== collection.name)
        .map((one): Found => ({ kind: 'collection', name: one.name, note: '', to: `/${one.name}/records` })),
      ...(queries ?? []).map((query): Found => ({
        kind: 'query',
        name: query.query,
        note: query.need,
        to: at('ranking', askedAs(query)),
      })),
    ]
  }, [collection, all, params, change, draft, queries, onKeys])
}

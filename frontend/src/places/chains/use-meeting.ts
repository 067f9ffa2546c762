// Two texts on their way to each other: the record's and the query's, their chains, and where they meet.
import { useQueries, useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { meeting, record, search, type Collection, type RankerChoice, type RankerDocument } from '../../api/queries'
import { useHeld } from '../../parts/use-held'
import { useAddress } from '../../shell/address'
import type { Draft } from '../../shell/use-draft'
import { berths, grid } from '../../thinking/columns'
import { chainFor, languageIn, languagesOf } from '../../thinking/draft'
import { mainField, valueText } from '../../thinking/records'
import { useChains } from './use-chains'

// What is read at most of one text: a screen's worth, and quick at every key press.
export const LONGEST_TEXT = 20_000
// A query is at most so long; side by side the text goes through both chains.
const LONGEST_BESIDE = 10_000

type Reading = RankerDocument['readings'][number]

export type MeetingShown = ReturnType<typeof useMeeting>

export function useMeeting(collection: Collection, draft: Draft | null) {
  const { params, change } = useAddress()
  const field = params.get('field') ?? mainField(collection)
  const readings = draft?.document.readings ?? []
  const usual = readings.find((reading) => reading.field === field) ?? readings[0]
  const query = params.get('q') ?? ''
  const key = useShownKey(collection, draft?.choice ?? null, query)
  const kept = useQuery({ ...record(collection.name, key.key), enabled: !key.pending })
  const { language, languages } = useLanguage(usual, kept.data?.field_values)
  const chains = useChains({
    record: usual ? chainFor(usual.chain, language) : 'words > lower',
    query: usual?.query_chain == null ? '' : chainFor(usual.query_chain, language),
  })
  const [edited, setEdited] = useHeld<string | null>(`text of ${collection.name}/${field}`, null)
  const fromRecord = valueText(kept.data?.field_values[field]).slice(0, LONGEST_TEXT)
  const text = edited ?? fromRecord

  // Saved chains and lists stand in the versions in which the draft reads them.
  const readBy = draft?.baselineChoice ?? null
  const asked = useMemo(() => {
    const record = { record_chain: chains.record, record_off: chains.recordOff, text, read_by: readBy }
    if (chains.beside === null) return { ...record, query_chain: chains.query, query_off: chains.queryOff, query }
    return { ...record, query_chain: chains.beside, query_off: chains.besideOff, query: text.slice(0, LONGEST_BESIDE) }
  }, [chains, text, query, readBy])
  const met = useQuery({
    ...meeting(collection.name, asked),
    enabled: kept.isSuccess || edited !== null,
  })
  const further = useQueries({
    queries: chains.more.map((notation) => ({
      ...meeting(collection.name, {
        ...asked,
        query_chain: notation,
        query_off: [],
        query: text.slice(0, LONGEST_BESIDE),
      }),
      enabled: chains.beside !== null,
    })),
  })
  const layout = useMemo(() => {
    if (!met.data) return null
    const recordGrid = grid(met.data.record_stages)
    const queryGrid = grid(met.data.query_stages)
    return { recordGrid, queryGrid, berths: berths(recordGrid, queryGrid, met.data.moorings) }
  }, [met.data])

  const goTo = (next: string | null | undefined) => {
    if (!next) return
    setEdited(null)
    change({ key: next })
  }
  const isBeside = chains.beside !== null
  return {
    ...{
      field,
      chains,
      query,
      kept,
      edited,
      setEdited,
      text,
      met,
      further: further.map((one) => one.data ?? null),
      layout,
      goTo,
      isBeside,
      readBy,
      language,
      languages,
    },
    compare: () => chains.setBeside(isBeside ? null : chains.record),
    readable: met.data !== undefined && !met.data.record_problem && (isBeside || !met.data.query_problem),
  }
}

// Of a reading whose chain goes by language: the one in the address, else the shown record's own.
function useLanguage(reading: Reading | undefined, values: Record<string, unknown> | undefined) {
  const { params } = useAddress()
  const chain = reading?.chain ?? ''
  const languages = languagesOf(chain)
  if (languages.length === 0) return { language: null, languages }
  const own = typeof chain === 'string' ? null : values?.[chain.by ?? '']
  return { language: languageIn(chain, params.get('lang') ?? (typeof own === 'string' ? own : null)), languages }
}

// The record in the address; without one, the query's best result, so that two texts meet that should.
function useShownKey(collection: Collection, choice: RankerChoice | null, query: string) {
  const { params } = useAddress()
  const named = params.get('key')
  const asks = named === null && query.trim() !== '' && choice !== null
  const best = useQuery({ ...search(collection.name, query, choice ?? {}, 1), enabled: asks })
  return { key: named ?? best.data?.results[0]?.key ?? null, pending: asks && best.isPending }
}

import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { SavedChain } from '../../api/chains'
import { putChain, savedChains, type Collection } from '../../api/queries'
import { useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { Changing } from '../../shell/changing'

// What a new version means for the rankers that use the chain: nothing until they take it.
function rebuilt(chain: SavedChain): string {
  const behind = chain.used_by.filter((use) => use.chain_version !== chain.version)
  if (behind.length === 0) return ''
  const said = behind.map(
    (use) => `${use.ranker} ${use.ranker_version} stays with version ${use.chain_version} (${use.fields.join(', ')})`,
  )
  return ` ${said.join('; ')}. A ranker that takes @${chain.name}:${chain.version} reads ${behind[0]?.fields.length === 1 ? 'that field' : 'those fields'} anew.`
}

// Saved chains are used in rankers by @name; here one is opened, or the present one saved.
export function SavedChains(props: { collection: Collection; notation: string; onLoad: (notation: string) => void }) {
  const { collection, notation } = props
  const { problem, act } = useDoing('chains', collection.name)
  const kept = useQuery(savedChains(collection.name))
  const held = `saving chain ${collection.name}/`
  const [name, setName] = useHeld<string | null>(`${held}name`, null)
  const [said, setSaid] = useState('')
  const save = () =>
    act(() => putChain(collection.name, (name ?? '').trim(), notation), {
      then: (chain) => {
        setSaid(`Saved: @${chain.name}, version ${chain.version}.${rebuilt(chain)}`)
        setName(null)
      },
    })
  // Who reads a chain of that name is said before it gets another version.
  const same = kept.data?.find((chain) => chain.name === name?.trim())
  const readers = same?.used_by
    .map((use) => `${use.ranker} ${use.ranker_version} (${use.fields.join(', ')})`)
    .join('; ')
  const known =
    same &&
    `version ${same.version + 1}; ${readers ? `${readers} keep${same.used_by.length === 1 ? 's' : ''} what ${same.used_by.length === 1 ? 'it reads' : 'they read'}, and nothing is rebuilt until a ranker takes it` : 'no ranker reads it yet'}`
  if (name === null) {
    return <OpenAnother said={said} kept={kept.data} onLoad={props.onLoad} onName={setName} />
  }
  return <KeepForm onSave={save} name={name} onName={setName} problem={problem} known={known} />
}

function OpenAnother({
  said,
  kept,
  onLoad,
  onName,
}: {
  said: string
  kept: SavedChain[] | undefined
  onLoad: (notation: string) => void
  onName: (to: string | null) => void
}) {
  return (
    <span className="flex items-baseline gap-1 pl-4">
      {said && (
        <span className="quiet small max-w-[300px]" role="status">
          {said}
        </span>
      )}
      {(kept?.length ?? 0) > 0 && (
        <select
          aria-label="Open a saved chain"
          className="quiet small w-[74px] bg-transparent"
          value=""
          onChange={(event) => onLoad(event.target.value)}
        >
          <option value="">Saved</option>
          {kept?.map((chain) => (
            <option key={chain.name} value={chain.notation}>
              @{chain.name} {chain.version}
              {chain.used_by.length > 0
                ? `, used by ${chain.used_by.map((use) => `${use.ranker} ${use.ranker_version}`).join(', ')}`
                : ''}
            </option>
          ))}
        </select>
      )}
      <Changing>
        <button type="button" className="btn btn-ghost btn-xs font-normal" onClick={() => onName('')}>
          Save as
        </button>
      </Changing>
    </span>
  )
}

function KeepForm({
  onSave,
  name,
  onName,
  problem,
  known,
}: {
  onSave: () => unknown
  name: string
  onName: (to: string | null) => void
  problem: null | Error
  known: string | undefined
}) {
  return (
    <form
      className="flex items-baseline gap-1 pl-4"
      onSubmit={(event) => {
        event.preventDefault()
        onSave()
      }}
    >
      <span aria-hidden>@</span>
      <input
        dir="auto"
        aria-label="Name of the chain"
        autoFocus
        className="w-[120px] border-b border-base-300 bg-transparent"
        value={name}
        maxLength={63}
        onChange={(event) => onName(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && onName(null)}
      />
      <button type="submit" className="btn btn-ghost btn-xs font-normal">
        Save
      </button>
      {problem ? (
        <span className="loss small max-w-[220px]">{problem.message}</span>
      ) : (
        known && <span className="quiet small max-w-[220px]">{known}</span>
      )}
    </form>
  )
}

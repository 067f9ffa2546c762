// Keys: who may ask the search endpoint, and programs that work with the collection. Each is shown once.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { deliveryKeys, revokeKey, type DeliveryKey } from '../../api/delivery'
import { Kept, Unanswered } from '../../parts/answered'
import { CopyButton } from '../../parts/copy-button'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { whenText } from '../../thinking/revisions'
import type { DeliveryProps } from './delivery-props'
import { ProgramKeyForm } from './program-key-form'
import { VisitorKeyForm } from './visitor-key-form'

export function KeysView({ collection }: DeliveryProps) {
  const found = useQuery(deliveryKeys(collection.name))
  const { params, change } = useAddress()
  const [made, setMade] = useState<string | null>(null)
  const wanted = params.get('new')
  const edited = found.data?.find((one) => String(one.id) === params.get('key') && one.kind === 'visitor')
  const close = () => change({ new: null, key: null })
  const onMade = (shown: string) => {
    setMade(shown)
    close()
  }
  if (!found.data) return <Unanswered asked={[found]} what="the keys" />
  return (
    <Kept asked={[found]} what="the keys" className="px-4 py-4">
      <div className="flex flex-wrap items-baseline gap-2 pb-2">
        <p className="quiet min-w-[240px] flex-1">
          A visitor’s key can search and do nothing else; it may stand in a page for everybody to read. A program’s key
          has a role in this collection.
        </p>
        <Changing needs="own">
          <button type="button" className="btn btn-sm" onClick={() => change({ new: 'visitor', key: null })}>
            A key for a site
          </button>
          <button type="button" className="btn btn-sm" onClick={() => change({ new: 'program', key: null })}>
            A key for a program
          </button>
        </Changing>
      </div>
      {made !== null && (
        <p role="status" className="mb-3 border-l-[3px] border-primary py-1 pl-3">
          Shown this once: <code className="text-[13px] wrap-anywhere">{made}</code>
          <CopyButton what="Copy the key" text={() => made} />
        </p>
      )}
      {wanted === 'program' && <ProgramKeyForm collection={collection} onMade={onMade} onLeave={close} />}
      {(wanted === 'visitor' || edited) && (
        <VisitorKeyForm
          key={edited?.id ?? 'new'}
          collection={collection}
          edited={edited ?? null}
          onMade={onMade}
          onLeave={close}
        />
      )}
      {found.data.length === 0 ? (
        <p className="quiet py-4">There is no key yet: nobody outside can ask.</p>
      ) : (
        <Table keys={found.data} collection={collection.name} onEdit={(id) => change({ key: String(id), new: null })} />
      )}
    </Kept>
  )
}

function Table(props: { keys: DeliveryKey[]; collection: string; onEdit: (id: number) => void }) {
  const { busy, problem, act } = useDoing('delivery', props.collection)
  return (
    <div className="overflow-x-auto">
      {problem && <ProblemNote error={problem} />}
      <table aria-label="Keys" className="w-full min-w-[720px] text-left">
        <thead>
          <tr className="quiet small line-b">
            {['what for', 'of', 'may', 'made', 'used', ''].map((name, i) => (
              <th key={`${name}${i}`} scope="col" className="py-1 pr-4 font-normal">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {props.keys.map((one) => (
            <Line
              key={one.id}
              one={one}
              busy={busy}
              onEdit={() => props.onEdit(one.id)}
              onRevoke={() => void act(() => revokeKey(props.collection, one.id))}
            />
          ))}
        </tbody>
      </table>
    </div>
  )
}

function Line(props: { one: DeliveryKey; busy: boolean; onEdit: () => void; onRevoke: () => void }) {
  const { one } = props
  return (
    <tr className={`line-b align-baseline ${one.ended ? 'quiet' : ''}`}>
      <td className="max-w-[260px] truncate py-2 pr-4" title={one.label}>
        {one.label}
      </td>
      <td className="small pr-4">{one.kind}</td>
      <td className="small max-w-[320px] pr-4 wrap-anywhere">{one.ended ? 'nothing any more' : may(one)}</td>
      <td className="small pr-4 whitespace-nowrap">
        {whenText(one.made_at)}
        {one.by_person && `, ${one.by_person}`}
      </td>
      <td className="small pr-4 whitespace-nowrap">{one.used_at ? whenText(one.used_at) : 'never'}</td>
      <td className="text-right whitespace-nowrap">{!one.ended && <Doings {...props} />}</td>
    </tr>
  )
}

const QUIET_BUTTON = 'btn btn-ghost btn-xs font-normal'

// A key that was revoked does not come back: it is asked once more.
function Doings({ one, busy, onEdit, onRevoke }: Parameters<typeof Line>[0]) {
  const [sure, setSure] = useState(false)
  return (
    <Changing needs="own">
      {sure ? (
        <>
          <span className="small pr-1">Whoever shows it is refused from then on.</span>
          <button
            type="button"
            className="btn btn-xs"
            aria-label={`Revoke ${one.label} for good`}
            disabled={busy}
            onClick={onRevoke}
          >
            Revoke it
          </button>
          <button
            type="button"
            className={QUIET_BUTTON}
            aria-label={`Leave ${one.label} as it is`}
            onClick={() => setSure(false)}
          >
            Leave it
          </button>
        </>
      ) : (
        <>
          {one.kind === 'visitor' && (
            <button type="button" className={QUIET_BUTTON} aria-label={`Change ${one.label}`} onClick={onEdit}>
              Change
            </button>
          )}
          <button
            type="button"
            className={QUIET_BUTTON}
            aria-label={`Revoke ${one.label}`}
            onClick={() => setSure(true)}
          >
            Revoke
          </button>
        </>
      )}
    </Changing>
  )
}

// What a key may, in a line.
function may(one: DeliveryKey): string {
  if (one.kind === 'program') return `work with the collection as ${one.role}`
  const terms = one.terms ?? {}
  const list = (name: string) => (Array.isArray(terms[name]) ? (terms[name] as string[]) : null)
  const parts = [
    typeof terms.ranker === 'string' ? `by ${terms.ranker}` : 'by what is live',
    list('shown') ? `sees ${list('shown')?.join(', ')}` : 'sees every field',
    list('searched') && `searches ${list('searched')?.join(', ')}`,
    list('origins') ? `for pages of ${list('origins')?.join(', ')}` : 'for pages from here and programs',
    Array.isArray(terms.filters) && 'within its filters',
    terms.keeps === false && 'nothing is kept',
  ]
  return parts.filter(Boolean).join('; ')
}

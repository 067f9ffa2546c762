// Invitations: a link is made, shown once to be sent on, and can be drawn back.
import { useState, type ReactNode } from 'react'
import { here } from '../../api/base'
import type { Invitation } from '../../api/people'
import { CopyButton } from '../../parts/copy-button'
import { whenText } from '../../thinking/revisions'
import { FIELD } from '../coming-in/form'

// A link that was just made.
export type Made = { shown: string; path: string }

export function InviteForm(props: {
  busy: boolean
  says: string
  made: Made | null
  onInvite: (shown: string) => void
  children?: ReactNode
}) {
  const [shown, setShown] = useState('')
  const address = props.made && window.location.origin + here(props.made.path)
  return (
    <form
      aria-label="Invite somebody"
      className="px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault()
        props.onInvite(shown)
        setShown('')
      }}
    >
      <h2 className="heading quiet pb-1">Invite somebody</h2>
      <p className="quiet small max-w-[64ch] pb-2">{props.says}</p>
      <div className="flex flex-wrap items-end gap-3">
        <label className="block w-[220px]">
          <span className="quiet small block">Who, as others see the name</span>
          <input
            dir="auto"
            className={FIELD}
            required
            maxLength={100}
            value={shown}
            onChange={(event) => setShown(event.target.value)}
          />
        </label>
        {props.children}
        <button type="submit" className="btn btn-sm" disabled={props.busy}>
          Make a link
        </button>
      </div>
      {props.made && address && (
        <p role="status" className="mt-3 max-w-[90ch] border-l-[3px] border-primary py-1 pl-3">
          Send this to {props.made.shown}. It is shown this once, and taken once:{' '}
          <code className="text-[13px] wrap-anywhere">{address}</code>
          <CopyButton what={`Copy the invitation for ${props.made.shown}`} text={() => address} />
        </p>
      )}
    </form>
  )
}

export function Invitations(props: { invited: Invitation[]; busy: boolean; onDraw: (id: number) => void }) {
  if (props.invited.length === 0) return null
  return (
    <section aria-label="Invitations">
      <h2 className="heading quiet px-4 pt-3 pb-1">Invited, and not here yet</h2>
      <ul>
        {props.invited.map((one) => (
          <li key={one.id} className="line-b flex flex-wrap items-baseline gap-x-3 px-4 py-2">
            <span>{one.shown}</span>
            {one.role && <span className="quiet small">as {one.role}</span>}
            <span className="quiet small min-w-[240px] flex-1">
              {one.by_person && `by ${one.by_person}, `}until {whenText(one.ends_at)}
            </span>
            <button
              type="button"
              className="btn btn-ghost btn-xs font-normal"
              disabled={props.busy}
              aria-label={`Draw back the invitation of ${one.shown}`}
              onClick={() => props.onDraw(one.id)}
            >
              Draw back
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}

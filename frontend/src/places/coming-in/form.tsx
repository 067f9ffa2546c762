// What forms of coming in are made of.
import { here } from '../../api/base'
import type { ReactNode } from 'react'

export const FIELD = 'input input-sm w-full border-base-300 bg-transparent'

export function Sheet({ title, children }: { title: string; children: ReactNode }) {
  return (
    <main className="mx-auto max-w-[420px] px-4 pt-[12vh] pb-8">
      <p className="flex items-center gap-3 pb-6">
        <img src={here('/favicon.svg')} alt="" width="32" height="32" />
        <b className="font-semibold">Pale Harbor</b>
      </p>
      <h1 className="pb-3 text-xl font-semibold">{title}</h1>
      {children}
    </main>
  )
}

export function Labelled({ label, says, children }: { label: string; says?: string; children: ReactNode }) {
  return (
    <label className="block pb-3">
      <span className="quiet small block">{label}</span>
      {children}
      {says && <span className="quiet small block pt-1">{says}</span>}
    </label>
  )
}

// isNew: the browser offers to make one up, and keeps what is typed.
export function PasswordField(props: {
  label: string
  says?: string
  isNew?: boolean
  value: string
  onValue: (value: string) => void
}) {
  return (
    <Labelled label={props.label} {...(props.says && { says: props.says })}>
      <input
        dir="auto"
        type="password"
        className={FIELD}
        required
        autoComplete={props.isNew ? 'new-password' : 'current-password'}
        value={props.value}
        onChange={(event) => props.onValue(event.target.value)}
      />
    </Labelled>
  )
}

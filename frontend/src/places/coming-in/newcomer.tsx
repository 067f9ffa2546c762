// Somebody who is not known here yet: by which name and password they sign in, and how others see the name.
import { useState } from 'react'
import { FIELD, Labelled, PasswordField } from './form'

type Props = {
  label: string
  shown: string
  busy: boolean
  does: string
  onTake: (name: string, shown: string, password: string) => void
}

export function Newcomer({ label, shown, busy, does, onTake }: Props) {
  const [name, setName] = useState('')
  const [as, setAs] = useState(shown)
  const [password, setPassword] = useState('')
  return (
    <form
      aria-label={label}
      onSubmit={(event) => {
        event.preventDefault()
        onTake(name, as, password)
      }}
    >
      <Labelled label="Name to sign in by" says="Letters from a to z, digits and . _ @ -">
        <input
          dir="auto"
          className={FIELD}
          required
          maxLength={63}
          autoComplete="username"
          autoCapitalize="none"
          spellCheck={false}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </Labelled>
      <Labelled label="Name that others see">
        <input
          dir="auto"
          className={FIELD}
          required
          maxLength={100}
          autoComplete="name"
          value={as}
          onChange={(event) => setAs(event.target.value)}
        />
      </Labelled>
      <PasswordField
        label="Password"
        says="Twelve letters or more; several words in a row are easy to keep in mind."
        isNew
        value={password}
        onValue={setPassword}
      />
      <button type="submit" className="btn btn-sm btn-primary" disabled={busy}>
        {busy ? 'One moment …' : does}
      </button>
    </form>
  )
}

import { useState } from 'react'

export function CopyButton({ text, what }: { text: () => string; what: string }) {
  const [said, setSaid] = useState('')
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(text())
      setSaid('Copied')
    } catch {
      setSaid('Not allowed')
    }
  }
  return (
    <button
      type="button"
      className="btn btn-ghost btn-xs font-normal"
      title={what}
      onBlur={() => setSaid('')}
      onClick={copy}
    >
      <span aria-live="polite">{said || 'Copy'}</span>
    </button>
  )
}

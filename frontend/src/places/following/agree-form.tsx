// What reading everything would do, where it would delete most of the records: whoever types how many lets it.
import { useState } from 'react'
import type { Following } from '../../api/following'
import { Changing } from '../../shell/changing'
import { countText } from '../../thinking/figures'
import { outlookText } from '../../thinking/progress'

type Props = { outlook: NonNullable<Following['outlook']>; busy: boolean; onAgree: (deletions: number) => void }

export function AgreeForm({ outlook, busy, onAgree }: Props) {
  const [said, setSaid] = useState('')
  const agreed = Number(said.replaceAll(/[\s,.]/g, '')) === outlook.deleted
  return (
    <form
      aria-label="What it would do"
      className="py-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (agreed && !busy) onAgree(outlook.deleted)
      }}
    >
      <Changing>
        <p>
          To {countText(outlook.records)} {outlook.records === 1 ? 'record' : 'records'}: {outlookText(outlook)}.
        </p>
        <div className="flex flex-wrap items-center gap-3 pt-2">
          <label className="flex items-center gap-2">
            <span className="loss">
              {countText(outlook.deleted)} of {countText(outlook.records)} records go. To agree, type their number
            </span>
            <input
              dir="auto"
              className="input input-sm figure w-[110px] border-base-300 bg-transparent"
              inputMode="numeric"
              value={said}
              onChange={(event) => setSaid(event.target.value)}
            />
          </label>
          <button type="submit" className="btn btn-primary btn-sm" disabled={busy || !agreed}>
            Delete them
          </button>
        </div>
      </Changing>
    </form>
  )
}

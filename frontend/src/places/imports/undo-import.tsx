// Makes an import undone, where it changed something and was not undone yet.
import { useState } from 'react'
import { undoImport, type Import } from '../../api/records'
import { ProblemNote } from '../../parts/notes'
import { useDoing } from '../../shell/use-doing'
import { Changing } from '../../shell/changing'

export function UndoImport({ one }: { one: Import }) {
  const { busy, problem, act } = useDoing('everything')
  const [asked, setAsked] = useState(false)
  if (!one.undoable) return null
  if (!asked) {
    return (
      <Changing of={one.collection}>
        <button
          type="button"
          className="link"
          aria-label={`Undo the import of ${one.name}`}
          title="Its records are again what they were, but for those that were changed or deleted since"
          onClick={() => setAsked(true)}
        >
          Undo
        </button>
      </Changing>
    )
  }
  return (
    <>
      <button type="button" autoFocus className="link" disabled={busy} onClick={() => setAsked(false)}>
        Leave it
      </button>{' '}
      <button
        type="button"
        className="link font-semibold"
        disabled={busy}
        onClick={() => void act(() => undoImport(one.id))}
      >
        Undo it now
      </button>
      {problem && <ProblemNote error={problem} />}
    </>
  )
}

// Makes an import undone, where it changed something and was not undone yet.
import { undoImport, type Import } from '../../api/records'
import { ProblemNote } from '../../parts/notes'
import { useDoing } from '../../shell/use-doing'

export function UndoImport({ one }: { one: Import }) {
  const { busy, problem, act } = useDoing('everything')
  if (!one.undoable) return null
  return (
    <>
      <button
        type="button"
        className="link"
        aria-label={`Undo the import of ${one.name}`}
        title="Its records are again what they were, but for those that were changed or deleted since"
        disabled={busy}
        onClick={() => void act(() => undoImport(one.id))}
      >
        Undo
      </button>
      {problem && <ProblemNote error={problem} />}
    </>
  )
}

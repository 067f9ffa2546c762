// What is left in a database that is followed no more, and how it is removed there.
import type { Ended } from '../../api/following'
import { CopyButton } from '../../parts/copy-button'

export function EndedNote({ ended, onDone }: { ended: Ended; onDone: () => void }) {
  return (
    <section aria-label="What is left there" className="line-b max-w-[1100px] px-4 py-4">
      <p role="status">The following is ended; the records stay.</p>
      {ended.problem && <p className="loss wrap-anywhere">{ended.problem}</p>}
      {ended.removal && (
        <>
          <div className="flex items-baseline gap-2 pt-1">
            <span className="flex-1">
              What was installed there goes on noting changes until the owner of the tables runs this:
            </span>
            <CopyButton what="Copy the script" text={() => ended.removal} />
          </div>
          <pre dir="ltr" tabIndex={0} aria-label="Removal" className="boxed-code overflow-auto p-3 text-[12px]">
            {ended.removal}
          </pre>
        </>
      )}
      <button type="button" className="btn btn-sm mt-2" onClick={onDone}>
        Done
      </button>
    </section>
  )
}

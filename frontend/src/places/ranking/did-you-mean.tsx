// Above a list what its query may have meant, or that this is the list of it.
import type { DidYouMean } from '../../api/corrections'
import { MarkedText } from '../../parts/marked-text'
import { useAddress } from '../../shell/address'
import { changedPieces, gainText, sureText } from '../../thinking/corrections'

export function DidYouMeanLine({ meant }: { meant: DidYouMean }) {
  const { change } = useAddress()
  const start = { row: null, skip: null, at: null }
  if (meant.taken) {
    return (
      <p className="line-b px-4 py-[6px]" aria-label="Correction">
        Nothing was found for <span dir="auto">“{meant.said}”</span>: this is the list of{' '}
        <b className="font-semibold" dir="auto">
          “{meant.query}”
        </b>
        .{' '}
        <button type="button" className="link" onClick={() => change({ as_said: meant.said, ...start }, false)}>
          Search as it was typed
        </button>
      </p>
    )
  }
  return (
    <p className="line-b px-4 py-[6px]" aria-label="Correction">
      Did you mean{' '}
      <button
        type="button"
        className="link"
        title={`Search for this instead; ${sureText(meant)}`}
        onClick={() => change({ q: meant.query, ...start }, false)}
      >
        <MarkedText pieces={changedPieces(meant)} />
      </button>
      ? <span className="quiet small">{gainText(meant)}</span>
    </p>
  )
}

// How far the filling is, told by the server as it goes.
import type { Space } from '../../api/spaces'
import { fillingOf } from '../../thinking/spaces'

export function FillingNote({ space }: { space: Space }) {
  const filling = fillingOf(space)
  return (
    <div className="pt-2">
      <p role="status" className={filling.wrong ? 'loss wrap-anywhere' : ''}>
        {filling.text}
      </p>
      {filling.busy && (
        <div
          role="progressbar"
          aria-label={`Filling ${space.name}`}
          aria-valuenow={filling.share === null ? undefined : Math.round(filling.share * 100)}
          className="mt-1 h-[7px] w-full bg-base-300"
        >
          <div
            className={`fills h-full ${filling.share === null ? 'opacity-50' : ''}`}
            style={{ width: `${100 * (filling.share ?? 1)}%`, background: 'var(--meaning)' }}
          />
        </div>
      )}
    </div>
  )
}

// How far the filling is, told by the server as it goes.
import { useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { eventsOf, spaces, type Space } from '../../api/spaces'
import { fillingOf } from '../../thinking/spaces'

export function FillingNote({ collection, space }: { collection: string; space: Space }) {
  const client = useQueryClient()
  const filling = fillingOf(space)
  useEffect(() => {
    if (!filling.busy) return
    const events = new EventSource(eventsOf(collection, space.name))
    events.onmessage = (event: MessageEvent<string>) => {
      const told = JSON.parse(event.data) as Space
      client.setQueryData(spaces(collection).queryKey, (all) =>
        all?.map((one) => (one.name === told.name ? told : one)),
      )
      if (!fillingOf(told).busy) {
        events.close()
        // What was searched with other vectors is searched anew.
        void client.invalidateQueries()
      }
    }
    return () => events.close()
  }, [collection, space.name, filling.busy, client])
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
            className={`h-full ${filling.share === null ? 'opacity-50' : ''}`}
            style={{ width: `${100 * (filling.share ?? 1)}%`, background: 'var(--meaning)' }}
          />
        </div>
      )}
    </div>
  )
}

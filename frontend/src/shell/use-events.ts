// What the server tells of its own accord, to every tab by the connection of one of them: browsers allow a host few.
import { useQueryClient, type QueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { renew } from '../api/subjects'
import { followed, type Told } from '../thinking/events'

const NAME = 'pale-harbor-events'

export function useEvents() {
  const client = useQueryClient()
  useEffect(() => listened(client), [client])
}

function listened(client: QueryClient): () => void {
  const channel = new BroadcastChannel(NAME)
  const ended = new AbortController()
  const hear = (told: Told) => {
    for (const one of followed(told)) {
      if (typeof one === 'string') void renew(client, one, { elsewhere: true })
      else void client.invalidateQueries({ queryKey: [...one] })
    }
  }
  channel.onmessage = (event: MessageEvent<Told>) => hear(event.data)
  // Whoever holds the lock listens for all; the next one takes over when its tab is closed.
  void navigator.locks
    .request(NAME, { signal: ended.signal }, () => {
      const events = new EventSource('/api/events')
      events.onmessage = (event: MessageEvent<string>) => {
        const told = JSON.parse(event.data) as Told
        channel.postMessage(told)
        hear(told)
      }
      return new Promise<void>((resolve) =>
        ended.signal.addEventListener('abort', () => {
          events.close()
          resolve()
        }),
      )
    })
    .catch(() => undefined)
  return () => {
    ended.abort()
    channel.close()
  }
}

// What the server tells of its own accord, to every tab by the connection of one of them: browsers allow a host few. And
// whether it can be heard: while it cannot, nobody knows what has changed.
import { useQueryClient, type QueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { BASE, here } from '../api/base'
import { renew } from '../api/subjects'
import { followed, type Told } from '../thinking/events'
import { paced } from '../thinking/paced'
import { isGoneOnWith } from './draft-keeping'

// Another installation below the same host tells its own tabs.
const NAME = `pale-harbor-events${BASE}`

// Records are looked at anew no more often.
const EVERY_MS = 2_000

// What one tab hears is passed on to the others as it is.
type Heard = Told | { subject: 'connection'; isOpen: boolean }

export function useEvents(): { isHeard: boolean } {
  const client = useQueryClient()
  const [isHeard, setIsHeard] = useState(true)
  useEffect(() => listened(client, setIsHeard), [client])
  return { isHeard }
}

function listened(client: QueryClient, onConnection: (isOpen: boolean) => void): () => void {
  const channel = new BroadcastChannel(NAME)
  const ended = new AbortController()
  const renewal = paced(() => void renew(client, 'everything', { elsewhere: true }), EVERY_MS)
  let isOpen = true
  const hear = (told: Heard) => {
    if (told.subject === 'connection') {
      onConnection(told.isOpen)
      // What was told meanwhile was told to nobody.
      if (told.isOpen && !isOpen) void renew(client, 'everything')
      isOpen = told.isOpen
      return
    }
    // What this page keeps itself is no news to it.
    if (told.subject === 'drafts' && isGoneOnWith(told.id)) return
    for (const one of followed(told)) {
      // A live database changes records all the time: nobody reads as quickly.
      if (told.subject === 'records') renewal.want()
      else if (typeof one === 'string') void renew(client, one, { elsewhere: true })
      else void client.invalidateQueries({ queryKey: [...one] })
    }
  }
  channel.onmessage = (event: MessageEvent<Heard>) => hear(event.data)
  const pass = (told: Heard) => {
    channel.postMessage(told)
    hear(told)
  }
  // Whoever holds the lock listens for all; the next one takes over when its tab is closed.
  void navigator.locks
    .request(NAME, { signal: ended.signal }, () => {
      const events = new EventSource(here('/api/events'))
      events.onmessage = (event: MessageEvent<string>) => pass(JSON.parse(event.data) as Told)
      events.onopen = () => pass({ subject: 'connection', isOpen: true })
      events.onerror = () => pass({ subject: 'connection', isOpen: false })
      return new Promise<void>((resolve) =>
        ended.signal.addEventListener('abort', () => {
          events.close()
          resolve()
        }),
      )
    })
    .catch(() => undefined)
  return () => {
    renewal.end()
    ended.abort()
    channel.close()
  }
}

// Turns of several knobs of one draft, asked for at the same time, go to the server in one request: what it costs to see
// each query's list once more is paid once.
import { answer, server, type Schemas } from './client'

type Turns = Schemas['Turns']
type Request = Omit<Schemas['TurnsRequest'], 'turns'>
type Waiting = {
  turns: Schemas['TurnModel'][]
  signal: AbortSignal
  resolve: (turns: Turns) => void
  reject: (error: unknown) => void
}

// The server takes so many in one request.
const MOST_TURNS = 100

const waiting = new Map<string, Waiting[]>()

// What turns of a draft come to. Whoever else asks of the same draft within this moment shares the request.
export function turnsTogether(
  collection: string,
  set: string,
  request: Request,
  turns: Schemas['TurnModel'][],
  signal: AbortSignal,
): Promise<Turns> {
  const key = JSON.stringify([collection, set, request])
  return new Promise((resolve, reject) => {
    const own = { turns, signal, resolve, reject }
    const others = waiting.get(key)
    if (others) return void others.push(own)
    waiting.set(key, [own])
    setTimeout(() => {
      const all = waiting.get(key) ?? []
      waiting.delete(key)
      for (const part of inParts(all)) void send(collection, set, request, part)
    })
  })
}

function inParts(all: Waiting[]): Waiting[][] {
  const parts: Waiting[][] = []
  for (const one of all) {
    const last = parts.at(-1)
    if (last && turnsIn(last) + one.turns.length <= MOST_TURNS) last.push(one)
    else parts.push([one])
  }
  return parts
}

const turnsIn = (part: Waiting[]) => part.reduce((count, one) => count + one.turns.length, 0)

async function send(collection: string, set: string, request: Request, part: Waiting[]): Promise<void> {
  const nobodyWaits = new AbortController()
  const look = () => part.every((one) => one.signal.aborted) && nobodyWaits.abort()
  part.forEach((one) => one.signal.addEventListener('abort', look))
  look()
  try {
    const told = await answer(
      server.POST('/api/collections/{collection}/judged/{name}/turns', {
        params: { path: { collection, name: set } },
        body: { ...request, turns: part.flatMap((one) => one.turns) },
        signal: nobodyWaits.signal,
      }),
    )
    let from = 0
    for (const one of part) {
      one.resolve({ ...told, turned: told.turned.slice(from, from + one.turns.length) })
      from += one.turns.length
    }
  } catch (error) {
    const [first, ...others] = part
    if (others.length === 0 || nobodyWaits.signal.aborted) return part.forEach((one) => one.reject(error))
    // Of several, one that is refused must not keep the others from theirs.
    for (const one of [first, ...others]) if (one) await send(collection, set, request, [one])
  }
}

// Asks the server. What goes wrong comes as a problem document (RFC 9457), and is thrown as one.
import type { components } from './schema.gen'

export type Schemas = components['schemas']
export type Problem = Schemas['Problem']

export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

async function answerOf<T>(response: Promise<Response>): Promise<T> {
  let got: Response
  try {
    got = await response
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error
    throw new ProblemError(unreachable())
  }
  const body: unknown = await got.json().catch(() => null)
  if (got.ok) return body as T
  throw new ProblemError(isProblem(body) ? body : { ...unreachable(), status: got.status })
}

function isProblem(body: unknown): body is Problem {
  return typeof body === 'object' && body !== null && 'detail' in body && 'status' in body
}

function unreachable(): Problem {
  return {
    type: 'about:blank',
    title: 'No answer',
    status: 0,
    detail: 'The server does not answer. Start it with ./paleharbor up; this page tries again by itself.',
    problems: [],
    expected: [],
  }
}

export function get<T>(path: string, signal?: AbortSignal): Promise<T> {
  return answerOf<T>(fetch(`/api${path}`, signal ? { signal } : {}))
}

export function send<T>(
  method: 'POST' | 'PUT' | 'DELETE',
  path: string,
  body: unknown,
  signal?: AbortSignal,
): Promise<T> {
  return answerOf<T>(
    fetch(`/api${path}`, {
      method,
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
      ...(signal ? { signal } : {}),
    }),
  )
}

// Sends a file, telling how much of it is over. Rejected like every other request.
export function upload<T>(path: string, file: File, onSent: (bytes: number) => void, signal?: AbortSignal): Promise<T> {
  const answer = new Promise<Response>((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', `/api${path}`)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.upload.onprogress = (event) => onSent(event.loaded)
    request.onload = () => resolve(new Response(request.responseText, { status: request.status }))
    request.onerror = () => reject(new TypeError('no answer'))
    request.onabort = () => reject(new DOMException('cancelled', 'AbortError'))
    signal?.addEventListener('abort', () => request.abort())
    request.send(file)
  })
  return answerOf<T>(answer)
}

// Asks the server. What is asked and answered is typed by the server's own document; what goes wrong comes as a problem
// document (RFC 9457), and is thrown as one.
import createClient from 'openapi-fetch'
import { BASE } from './base'
import type { components, paths } from './schema.gen'

export type Schemas = components['schemas']
export type Problem = Schemas['Problem']

export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

// Addresses are this page's own; fetch is looked up at each call, so that tests and tools may stand in for it.
export const server = createClient<paths>({ baseUrl: BASE, fetch: (request) => globalThis.fetch(request) })

type Answered<T> = { data?: T; error?: unknown; response: Response }

// What was asked for, or a ProblemError.
export async function answer<T>(asked: Promise<Answered<T>>): Promise<T> {
  let got: Answered<T>
  try {
    got = await asked
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error
    throw new ProblemError(unreachable())
  }
  if (got.data !== undefined) return got.data
  throw new ProblemError(isProblem(got.error) ? got.error : { ...unreachable(), status: got.response.status })
}

// The same where nothing comes back.
export async function done(asked: Promise<Answered<unknown>>): Promise<void> {
  await answer(asked.then((got) => (got.response.ok ? { ...got, data: null } : got)))
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
    place: null,
    nearest: null,
  }
}

// How a file is sent: by a request that tells how much of it is over, which fetch cannot.
export const sending = (file: File, onSent: (bytes: number) => void, signal?: AbortSignal) => ({
  headers: { 'Content-Type': 'application/octet-stream' },
  fetch: ({ url }: Request) =>
    new Promise<Response>((resolve, reject) => {
      const request = new XMLHttpRequest()
      request.open('POST', url)
      request.setRequestHeader('Content-Type', 'application/octet-stream')
      request.upload.onprogress = (event) => onSent(event.loaded)
      request.onload = () =>
        resolve(
          new Response(request.responseText, {
            status: request.status,
            headers: { 'Content-Type': 'application/json' },
          }),
        )
      request.onerror = () => reject(new TypeError('no answer'))
      request.onabort = () => reject(new DOMException('cancelled', 'AbortError'))
      signal?.addEventListener('abort', () => request.abort())
      request.send(file)
    }),
})

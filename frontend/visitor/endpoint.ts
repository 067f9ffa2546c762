// The search endpoint as a visitor's page asks it: with a key in the address, so that no preflight goes before it.

export type Stretch = [number, number]

export type Box = [number, number, number, number]

// Something that was looked for on a page. boxes: x, y, width and height of each of its parts.
export type PageHit = { start: number; end: number; boxes: Box[]; before: string; letters: string; after: string }

export type PageTold = {
  key: string
  title: string
  text: string
  picture: string | null
  width: number
  height: number
  // Start and end in the text; x, y, width and height; line; how sure the machine was.
  words: [number, number, number, number, number, number, number, number | null][]
  hits: PageHit[]
  beside: { key: string; label: string; picture: string | null; hits: number }[]
}

export type Row = {
  rank: number
  key: string
  fields: Record<string, unknown>
  marks: Record<string, Stretch[]>
  passages: { field: string; start: number; end: number; text: string; marks: Stretch[] }[]
  others: number
  // Of what is a page; only where it was asked for.
  hits?: PageHit[]
}

export type Nearly = { query: string; dropped: string[]; without_filters: boolean; found: number }

export type List = {
  query_id: string
  ranker: { name: string; version: number }
  found: number
  rows: number
  results: Row[]
  facets: Record<string, { value: string; count: number }[]>
  did_you_mean: { query: string; finds: number; taken: boolean } | null
  notes: string[]
  nearly: Nearly | null
  left_out: string[]
}

// How records are shown, as the collection says: what the key may see of it.
export type About = {
  title: string | null
  picture: string | null
  fields: { field: string; length: 'line' | 'short' | 'whole' }[]
  facets: string[]
  sorts: string[]
  // Whether records may be pages that a machine read, with pictures.
  pages: boolean
}

export type Asked = {
  query: string
  // By field, the values of which any will do.
  chosen: Record<string, string[]>
  sort: string
  // From 1 on.
  page: number
  // The query as it was typed, though another one would find more.
  asSaid: boolean
}

// Why there is no list. seconds: after which it is worth asking again, where that is said.
export class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly seconds: number | null = null,
  ) {
    super(message)
  }
}

export const ROWS = 10

const inPath = (name: string): string => name.split('/').map(encodeURIComponent).join('/')

export class Endpoint {
  constructor(
    private readonly address: string,
    private readonly collection: string,
    private readonly key: string,
    private readonly session: string,
  ) {}

  // pages: whether to tell what was found on those rows that are pages.
  list(
    asked: Asked,
    facets: string[],
    typed: boolean,
    language: string,
    pages: boolean,
    signal: AbortSignal,
  ): Promise<List> {
    const said = new URLSearchParams({ query: asked.query, session: this.session, passages: '240' })
    said.set('top', String(ROWS))
    if (asked.page > 1) said.set('skip', String((asked.page - 1) * ROWS))
    if (asked.sort) said.append('sort', asked.sort)
    if (asked.asSaid) said.set('as_said', 'true')
    if (pages) said.set('hits', 'true')
    for (const [field, values] of Object.entries(asked.chosen))
      for (const value of values) said.append('filter', `${field}:${value}`)
    for (const field of facets) said.append('facet', field)
    if (language) said.set('language', language)
    return this.get<List>(typed ? 'typed' : 'search', said, signal)
  }

  completions(typed: string, signal: AbortSignal): Promise<{ completions: { text: string }[]; gathering: boolean }> {
    return this.get('completions', new URLSearchParams({ typed, top: '8' }), signal)
  }

  about(): Promise<About> {
    return this.get<About>('about', new URLSearchParams(), AbortSignal.timeout(20_000))
  }

  picture(name: string, small = false): string {
    return this.path(`pictures/${inPath(name)}`, new URLSearchParams(small ? { small: 'true' } : {}))
  }

  page(key: string, query: string, language: string, typed: boolean, signal: AbortSignal): Promise<PageTold> {
    const said = new URLSearchParams({ query })
    if (language) said.set('language', language)
    if (typed) said.set('typed', 'true')
    return this.get<PageTold>(`pages/${inPath(key)}`, said, signal)
  }

  // A file of the search's own, beside the endpoint.
  script(name: string): string {
    return `${this.address}/${name}`
  }

  // Kept for good even where the page is left in the same moment.
  tell(queryId: string, kind: 'click' | 'success', record: string): void {
    void fetch(this.path('events', new URLSearchParams()), {
      method: 'POST',
      body: JSON.stringify({ query_id: queryId, kind, record }),
      keepalive: true,
      credentials: 'omit',
    }).catch(() => undefined)
  }

  private path(what: string, said: URLSearchParams): string {
    said.set('key', this.key)
    return `${this.address}/v1/${encodeURIComponent(this.collection)}/${what}?${said.toString()}`
  }

  private async get<T>(what: string, said: URLSearchParams, signal: AbortSignal): Promise<T> {
    let answer: Response
    try {
      answer = await fetch(this.path(what, said), { signal, credentials: 'omit' })
    } catch (error) {
      if (signal.aborted && !(signal.reason instanceof DOMException && signal.reason.name === 'TimeoutError'))
        throw error
      throw new Refused(0, '')
    }
    if (answer.ok) return (await answer.json()) as T
    const told = (await answer.json().catch(() => null)) as { detail?: string } | null
    const seconds = Number(answer.headers.get('Retry-After') ?? NaN)
    throw new Refused(answer.status, told?.detail ?? '', Number.isFinite(seconds) ? seconds : null)
  }
}

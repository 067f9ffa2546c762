// For engineers who look at the visitor's page: grades, scores and why, and another version's list beside it. Asked of the
// workbench as whoever is signed in there; a visitor never loads this.
import { h } from './dom'
import type { HarborSearch, Shown } from './element'
import type { Asked } from './endpoint'

type Me = {
  needs_sign_in: boolean
  person: { keeper: boolean; roles: Record<string, string> } | null
}
type Version = { name: string; version: number }
type Scored = { key: string; score: number; title: string }

const MAY_LOOK = ['reader', 'engineer', 'owner']

export const titleOf = ({ name, version }: Version): string => `${name}:${version}`

// Whether somebody may look at a collection's workings.
export function mayLook(me: Me, collection: string): boolean {
  if (!me.needs_sign_in || me.person?.keeper) return true
  return MAY_LOOK.includes(me.person?.roles[collection] ?? '')
}

// How a row moved from one list to the other, as a mark and in words.
export function movedFrom(rank: number, before: number | undefined): string {
  if (before === undefined) return 'new'
  if (before === rank) return '='
  return before > rank ? `▲ ${before - rank}` : `▼ ${rank - before}`
}

// What a body of the workbench's own search says of what a visitor asked.
export function searchBody(asked: Asked, version: Version) {
  return {
    query: asked.query,
    ranker: version,
    filters: Object.entries(asked.chosen).map(([field, one_of]) => ({ field, one_of })),
    sort: asked.sort ? [asked.sort] : [],
    as_said: asked.asSaid,
    top: 10,
    skip: (asked.page - 1) * 10,
  }
}

class Workbench {
  constructor(
    private readonly address: string,
    private readonly collection: string,
  ) {}

  async get<T>(path: string, body?: unknown): Promise<T> {
    const answer = await fetch(
      `${this.address}/api${path}`,
      body === undefined
        ? {}
        : { method: 'POST', body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } },
    )
    if (!answer.ok) throw new Error(((await answer.json()) as { detail?: string }).detail ?? answer.statusText)
    return (await answer.json()) as T
  }

  me = () => this.get<Me>('/me')
  rankers = () => this.get<Version[]>(`/collections/${this.collection}/rankers`)

  // By query, the grade of each record, of all judged sets together: of two the higher.
  async grades(): Promise<Map<string, Map<string, number>>> {
    const sets = await this.get<{ name: string }[]>(`/collections/${this.collection}/judged`)
    const found = new Map<string, Map<string, number>>()
    for (const { name } of sets) {
      const set = await this.get<{ queries: { query: string; grades: Record<string, number> }[] }>(
        `/collections/${this.collection}/judged/${name}`,
      )
      for (const one of set.queries) {
        const own = found.get(one.query) ?? new Map<string, number>()
        for (const [key, grade] of Object.entries(one.grades)) own.set(key, Math.max(grade, own.get(key) ?? 0))
        found.set(one.query, own)
      }
    }
    return found
  }

  async scored(asked: Asked, version: Version, title: string | null): Promise<Scored[]> {
    const told = await this.get<{ results: { key: string; score: number; field_values: Record<string, unknown> }[] }>(
      `/collections/${this.collection}/search`,
      searchBody(asked, version),
    )
    return told.results.map((row) => ({
      key: row.key,
      score: row.score,
      title: String((title !== null && row.field_values[title]) || row.key),
    }))
  }
}

export async function engineersTools(
  address: string,
  collection: string,
  box: HarborSearch,
): Promise<HTMLElement | null> {
  const bench = new Workbench(address, encodeURIComponent(collection))
  const me = await bench.me().catch(() => null)
  if (!me || !mayLook(me, collection)) return null
  const versions = await bench.rankers()
  return new Tools(bench, address, collection, versions, box).element
}

class Tools {
  readonly element: HTMLElement
  private readonly shown = h('div', { class: 'lists' })
  private readonly beside: HTMLSelectElement
  private grades: Map<string, Map<string, number>> | null = null
  private last: Shown | null
  private turn = 0

  constructor(
    private readonly bench: Workbench,
    private readonly address: string,
    private readonly collection: string,
    versions: Version[],
    box: HarborSearch,
  ) {
    this.beside = h(
      'select',
      { onchange: () => void this.show() },
      h('option', { value: '' }, 'nothing'),
      ...versions.map((one) => h('option', { value: titleOf(one) }, titleOf(one).replace(':', ' '))),
    )
    const details = h('details', { class: 'tools', ontoggle: () => void this.show() })
    details.append(
      h('summary', {}, 'For engineers: grades, scores and why'),
      h('label', {}, 'Beside it, the list of ', this.beside),
      this.shown,
    )
    this.element = details
    // The list may have been there before these tools were.
    this.last = box.shown
    box.addEventListener('harbor-listed', (event) => {
      this.last = (event as CustomEvent<Shown>).detail
      void this.show()
    })
  }

  private async show(): Promise<void> {
    if (!(this.element as HTMLDetailsElement).open || !this.last) return
    const turn = (this.turn += 1)
    const { asked, list, title } = this.last
    const said = { ...asked, query: list.did_you_mean?.taken ? list.did_you_mean.query : asked.query }
    try {
      this.grades ??= await this.bench.grades()
      const own = await this.bench.scored(said, list.ranker, title)
      const [name = '', version = ''] = this.beside.value.split(':')
      const other = name ? await this.bench.scored(said, { name, version: Number(version) }, title) : null
      // Something newer was asked meanwhile.
      if (turn !== this.turn) return
      const tables = [this.table(said, list.ranker, own, null)]
      if (other) tables.push(this.table(said, { name, version: Number(version) }, other, own))
      this.shown.replaceChildren(...tables)
    } catch (error) {
      if (turn === this.turn) this.shown.replaceChildren(h('p', { role: 'alert' }, String(error)))
    }
  }

  private table(asked: Asked, version: Version, rows: Scored[], before: Scored[] | null): HTMLElement {
    const grades = this.grades?.get(asked.query)
    const first = (asked.page - 1) * 10 + 1
    const ranks = new Map(before?.map((one, at) => [one.key, at]))
    return h(
      'table',
      {},
      h('caption', {}, titleOf(version).replace(':', ' ')),
      h(
        'thead',
        {},
        h(
          'tr',
          {},
          ...['', ...(before ? ['moved'] : []), 'record', 'grade', 'score', ''].map((name) => h('th', {}, name)),
        ),
      ),
      h(
        'tbody',
        {},
        ...rows.map((row, at) =>
          h(
            'tr',
            {},
            h('td', {}, String(first + at)),
            before !== null && h('td', {}, movedFrom(at, ranks.get(row.key))),
            h('td', { dir: 'auto' }, row.title),
            h('td', {}, grades?.has(row.key) ? String(grades.get(row.key)) : '–'),
            h('td', {}, row.score.toFixed(3)),
            h(
              'td',
              {},
              h('a', { href: this.why(asked, version, row.key), target: '_blank', rel: 'noreferrer' }, 'why'),
            ),
          ),
        ),
      ),
    )
  }

  private why(asked: Asked, version: Version, key: string): string {
    const said = new URLSearchParams({ q: asked.query, ranker: titleOf(version), tab: 'why', key })
    return `${this.address}/${encodeURIComponent(this.collection)}/ranking?${said.toString()}`
  }
}

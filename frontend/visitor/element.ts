// <harbor-search>: a search box with all that belongs to it, for any page of any site. It asks the search endpoint with
// the key that it is given, and nothing else.
//
//   <script type="module" src="https://search.example.org/harbor-search.js"></script>
//   <harbor-search collection="saltmere" key="…" href="https://www.example.org/objects/{key}"></harbor-search>
import { addressOf, askedIn, NOTHING, toggled } from './address'
import { h } from './dom'
import { Endpoint, Refused, ROWS, type About, type Asked, type List, type Row } from './endpoint'
import { Latest } from './latest'
import { pieces, shortly, textOf } from './marked'
import { Suggesting } from './suggesting'
import { STYLES } from './styles'
import { textsFor, type Texts } from './texts'

// Whoever types no further for so long has asked what they meant to.
const REST_MS = 900
const SHOWN_VALUES = 6
const MOST_PAGES_SHOWN = 7
const NO_ABOUT: About = { title: null, picture: null, fields: [], facets: [], sorts: [], pages: false }

// Where this script came from: the endpoint is there, unless the page says otherwise.
const FROM = new URL('.', import.meta.url).href.replace(/\/$/, '')

let sheet: CSSStyleSheet | null = null
function styles(): CSSStyleSheet {
  if (!sheet) {
    sheet = new CSSStyleSheet()
    sheet.replaceSync(STYLES)
  }
  return sheet
}

// One visit of a page, told from others by nothing but chance.
function newSession(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (one) => one.toString(16).padStart(2, '0')).join('')
}

// A field's name as visitors read it.
const called = (field: string): string => field.replaceAll('_', ' ')

export type Shown = { asked: Asked; list: List; title: string | null }

export class HarborSearch extends HTMLElement {
  static observedAttributes = ['collection', 'key', 'endpoint', 'lang', 'href', 'facets', 'language']

  private readonly root = this.attachShadow({ mode: 'open' })
  private readonly session = newSession()
  private readonly lists = new Latest()
  private endpoint: Endpoint | null = null
  private about: About = NO_ABOUT
  private texts: Texts = textsFor([]).texts
  private asked: Asked = NOTHING
  private list: List | null = null
  private opened = new Set<string>()
  private thanked = new Set<string>()
  private unfolded = new Set<string>()
  // The page that is looked at, by its row, and what takes it away.
  private looking: { key: string; place: HTMLElement; close: () => void } | null = null
  // Whether what a list may be narrowed by is to be seen; null until somebody says so.
  private unfoldedAll: boolean | null = null
  private listed = ''
  private typed = false
  private resting: ReturnType<typeof setTimeout> | undefined
  private waitsUntil = 0
  private suggesting: Suggesting | null = null

  private readonly said = h('p', { class: 'said', role: 'status', tabindex: -1, 'aria-live': 'polite' })
  private readonly help = h('div')
  private readonly below = h('div', { class: 'below' })

  connectedCallback(): void {
    this.root.adoptedStyleSheets = [styles()]
    window.addEventListener('popstate', this.onMoved)
    void this.begin()
  }

  disconnectedCallback(): void {
    window.removeEventListener('popstate', this.onMoved)
    this.lists.callOff()
    this.leavePage()
    this.suggesting?.close()
    clearTimeout(this.resting)
  }

  attributeChangedCallback(_name: string, before: string | null, after: string | null): void {
    if (this.isConnected && before !== after) void this.begin()
  }

  // Asks for something as if it had been typed; for a page that has words of its own to begin with.
  search(query: string): void {
    this.ask({ ...NOTHING, query })
  }

  private readonly onMoved = () => {
    if (!this.hasAttribute('in-address')) return
    this.asked = askedIn(new URLSearchParams(window.location.search))
    this.suggesting?.say(this.asked.query)
    void this.fetchList(false)
  }

  private async begin(): Promise<void> {
    const own = this.getAttribute('lang')
    const around = this.closest('[lang]')?.getAttribute('lang')
    const { texts, language } = textsFor([own, around, ...navigator.languages].filter((one) => one != null))
    this.texts = texts
    this.root.host.setAttribute('data-language', language)
    const collection = this.getAttribute('collection') ?? ''
    const address = (this.getAttribute('endpoint') ?? FROM).replace(/\/$/, '')
    this.endpoint = new Endpoint(address, collection, this.getAttribute('key') ?? '', this.session)
    this.asked = this.hasAttribute('in-address') ? askedIn(new URLSearchParams(window.location.search)) : this.asked
    this.suggesting = new Suggesting(texts, {
      complete: (typed, signal) => this.endpoint?.completions(typed, signal) ?? Promise.reject(new Error()),
      typed: (query) => this.type(query),
      chosen: (query) =>
        this.ask({ ...this.asked, query, page: 1, asSaid: query === this.asked.query && this.asked.asSaid }),
    })
    this.suggesting.say(this.asked.query)
    this.root.replaceChildren(
      h('div', { class: 'around', part: 'search' }, this.suggesting.form, this.said, this.help, this.below),
    )
    try {
      this.about = await this.endpoint.about()
    } catch (error) {
      this.about = NO_ABOUT
      this.complain(error)
      return
    }
    await this.fetchList(false)
  }

  private get facets(): string[] {
    const named = this.getAttribute('facets')
    return named === null
      ? this.about.facets
      : named
          .split(',')
          .map((one) => one.trim())
          .filter(Boolean)
  }

  private type(query: string): void {
    this.asked = { ...this.asked, query, page: 1, asSaid: false }
    clearTimeout(this.resting)
    void this.fetchList(true)
    this.resting = setTimeout(() => this.remember(() => void this.fetchList(false)), REST_MS)
  }

  private ask(asked: Asked): void {
    clearTimeout(this.resting)
    this.asked = asked
    this.suggesting?.say(asked.query)
    this.remember(() => void this.fetchList(false))
  }

  // A list that was asked for can be gone back to, and sent on as a link.
  private remember(then: () => void): void {
    if (this.hasAttribute('in-address')) {
      const after = addressOf(this.asked, new URLSearchParams(window.location.search)).toString()
      if (after !== window.location.search.replace(/^\?/, '')) window.history.pushState(null, '', `?${after}`)
    }
    then()
  }

  private async fetchList(typed: boolean): Promise<void> {
    const { query, chosen } = this.asked
    if (!query.trim() && Object.keys(chosen).length === 0) {
      this.lists.callOff()
      this.list = null
      this.show()
      this.said.textContent = this.texts.begin
      return
    }
    if (Date.now() < this.waitsUntil) return
    this.below.toggleAttribute('data-waiting', true)
    const asked = this.asked
    try {
      const list = await this.lists.ask((signal) =>
        this.endpoint
          ? this.endpoint.list(asked, this.facets, typed, this.getAttribute('language') ?? '', this.about.pages, signal)
          : Promise.reject(new Error()),
      )
      if (list === null) return
      this.list = list
      // The same list once more, as after a rest in typing, leaves open what was opened.
      const listed = JSON.stringify(asked)
      if (listed !== this.listed) {
        this.opened.clear()
        this.leavePage()
      }
      // Of what is typed so far.
      this.typed = typed
      this.listed = listed
      this.show()
    } catch (error) {
      this.complain(error)
    }
  }

  private complain(error: unknown): void {
    this.below.toggleAttribute('data-waiting', false)
    const refused = error instanceof Refused ? error : new Refused(0, '')
    const again = () => {
      this.waitsUntil = 0
      void (this.about === NO_ABOUT ? this.begin() : this.fetchList(false))
    }
    if (refused.status === 429) {
      const seconds = refused.seconds ?? 60
      this.waitsUntil = Date.now() + seconds * 1000
      setTimeout(again, seconds * 1000)
      this.said.textContent = this.texts.tooOften(seconds)
      return
    }
    this.said.textContent = refused.status === 0 || refused.status >= 500 ? this.texts.silent : this.texts.refused
    this.said.append(' ', h('button', { type: 'button', class: 'plain', onclick: again }, this.texts.again))
    this.dispatchEvent(new CustomEvent('harbor-refused', { detail: { status: refused.status, says: refused.message } }))
  }

  private show(): void {
    const before = this.root.activeElement
    const inside = before !== null && (this.below.contains(before) || this.help.contains(before))
    this.draw()
    // Whoever goes by keyboard stays where they were; where that is gone, at the list's first words.
    if (inside) (this.named(before.getAttribute('data-named')) ?? this.said).focus()
  }

  private named(name: string | null): HTMLElement | null {
    return name === null ? null : this.below.querySelector<HTMLElement>(`[data-named="${CSS.escape(name)}"]`)
  }

  private draw(): void {
    const { list, texts } = this
    this.below.toggleAttribute('data-waiting', false)
    this.help.replaceChildren()
    this.below.replaceChildren()
    this.below.classList.toggle('parted', false)
    if (!list) return
    const query = list.did_you_mean?.taken ? list.did_you_mean.query : this.asked.query
    this.said.textContent = list.found > 0 ? texts.found(list.found, query) : texts.nothing(this.asked.query)
    if (list.left_out.length > 0) this.said.append(` ${texts.partly}`)
    this.help.replaceChildren(...this.helps(list))
    const side = this.narrowing(list)
    this.below.classList.toggle('parted', side !== null)
    if (side) this.below.append(side)
    this.below.append(
      h(
        'div',
        {},
        this.bar(list),
        h('ol', { class: 'list', part: 'list' }, ...list.results.map((row) => this.row(row))),
        this.pages(list),
      ),
    )
    this.dispatchEvent(new CustomEvent('harbor-listed', { detail: this.shown }))
  }

  // What is shown at present, and what was asked for it; for whoever comes when it was told already.
  get shown(): Shown | null {
    return this.list && { asked: this.asked, list: this.list, title: this.about.title }
  }

  // What may have been meant, and what nearly fits where nothing was found.
  private helps(list: List): Node[] {
    const { texts, asked } = this
    const meant = list.did_you_mean
    const lines: Node[] = []
    const link = (says: string, then: Asked) =>
      h('li', {}, h('button', { type: 'button', class: 'plain', onclick: () => this.ask(then) }, says))
    if (meant?.taken) {
      lines.push(h('li', {}, texts.showing(meant.query)))
      lines.push(link(texts.instead(asked.query), { ...asked, asSaid: true, page: 1 }))
    } else if (meant) {
      const then = () => this.ask({ ...asked, query: meant.query, page: 1, asSaid: false })
      lines.push(
        h(
          'li',
          {},
          `${texts.meant} `,
          h('button', { type: 'button', class: 'plain', onclick: then }, meant.query),
          '?',
        ),
      )
    }
    const { nearly } = list
    if (nearly?.without_filters) lines.push(link(texts.unfiltered(nearly.found), { ...asked, chosen: {}, page: 1 }))
    else if (nearly) {
      lines.push(
        link(texts.without(texts.quoted(nearly.dropped), nearly.found), {
          ...asked,
          query: nearly.query,
          page: 1,
          asSaid: false,
        }),
      )
    }
    if (lines.length === 0 && list.found === 0) lines.push(h('li', {}, texts.otherwise))
    return lines.length > 0 ? [h('ul', { class: 'help' }, ...lines)] : []
  }

  private narrowing(list: List): HTMLElement | null {
    const { texts, asked } = this
    const sets = this.facets.flatMap((field) => {
      const values = list.facets[field] ?? []
      const own = asked.chosen[field] ?? []
      if (values.length < 2 && own.length === 0) return []
      const missing = own.filter((value) => !values.some((one) => one.value === value))
      const all = [...values, ...missing.map((value) => ({ value, count: 0 }))]
      const isOpen = this.unfolded.has(field) || all.length <= SHOWN_VALUES + 1
      const seen = isOpen ? all : all.filter((one, at) => at < SHOWN_VALUES || own.includes(one.value))
      const unfold = () => {
        if (!this.unfolded.delete(field)) this.unfolded.add(field)
        this.show()
      }
      return [
        h(
          'fieldset',
          {},
          h('legend', {}, called(field)),
          ...seen.map(({ value, count }) =>
            h(
              'label',
              {},
              h('input', {
                type: 'checkbox',
                'data-named': `is ${field} ${value}`,
                checked: own.includes(value),
                onchange: () => this.ask(toggled(asked, field, value)),
              }),
              h('span', { dir: 'auto' }, value),
              h('span', { class: 'count' }, String(count)),
            ),
          ),
          all.length > SHOWN_VALUES + 1 &&
            h(
              'button',
              {
                type: 'button',
                class: 'plain',
                'data-named': `values of ${field}`,
                'aria-expanded': String(isOpen),
                onclick: unfold,
              },
              isOpen ? texts.fewer : texts.more(all.length - seen.length),
            ),
        ),
      ]
    })
    if (sets.length === 0) return null
    const chosen = Object.keys(asked.chosen).length > 0
    const open = this.unfoldedAll ?? (chosen || this.getBoundingClientRect().width >= 760)
    const details = h('details', { open, part: 'narrowing' }, h('summary', {}, texts.narrow), ...sets)
    details.addEventListener('toggle', () => (this.unfoldedAll = details.open))
    return details
  }

  private bar(list: List): HTMLElement {
    const { texts, asked } = this
    const chosen = Object.entries(asked.chosen).flatMap(([field, values]) => values.map((value) => ({ field, value })))
    const sorts = this.about.sorts.flatMap((field) => [
      { value: `-${field}`, says: texts.falling(called(field)) },
      { value: field, says: texts.rising(called(field)) },
    ])
    const copied = h('span', { role: 'status' })
    const share = async () => {
      await navigator.clipboard.writeText(window.location.href)
      copied.textContent = texts.copied
    }
    return h(
      'div',
      { class: 'bar' },
      chosen.length > 0 &&
        h(
          'ul',
          { class: 'chosen', 'aria-label': texts.narrowedTo },
          ...chosen.map(({ field, value }) =>
            h(
              'li',
              {},
              h(
                'button',
                {
                  type: 'button',
                  'aria-label': texts.takeAway(value),
                  onclick: () => this.ask(toggled(asked, field, value)),
                },
                value,
              ),
            ),
          ),
        ),
      sorts.length > 0 &&
        list.found > 1 &&
        h(
          'label',
          {},
          `${texts.sort} `,
          h(
            'select',
            {
              'data-named': 'order',
              onchange: (event) => this.ask({ ...asked, sort: (event.target as HTMLSelectElement).value, page: 1 }),
            },
            h('option', { value: '', selected: asked.sort === '' }, texts.relevance),
            ...sorts.map(({ value, says }) => h('option', { value, selected: asked.sort === value }, says)),
          ),
        ),
      this.hasAttribute('in-address') &&
        h('button', { type: 'button', class: 'plain', onclick: () => void share() }, texts.share),
      copied,
    )
  }

  private row(row: Row): HTMLElement {
    const { about, texts } = this
    const title = titleOf(row, about)
    const marks = about.title === null ? [] : (row.marks[about.title] ?? [])
    const marked = () => pieces(title, marks).map(({ text, marked }) => (marked ? h('mark', {}, text) : text))
    const where = this.getAttribute('href')
    const told = () => this.tell('click', row)
    const open = () => {
      told()
      if (!this.opened.delete(row.key)) this.opened.add(row.key)
      const before = this.root.querySelector(`[data-key="${CSS.escape(row.key)}"]`)
      before?.replaceWith(this.row(row))
      this.root.querySelector<HTMLElement>(`[data-key="${CSS.escape(row.key)}"] h2 button`)?.focus()
    }
    const isOpen = this.opened.has(row.key)
    const named = { 'data-named': `record ${row.key}` }
    const head = where
      ? h('a', { ...named, href: this.filled(where, row), onclick: told, onauxclick: told }, ...marked())
      : h('button', { ...named, type: 'button', 'aria-expanded': String(isOpen), onclick: open }, ...marked())
    const picture = about.picture === null ? '' : (textOf(row.fields[about.picture]).split('\n')[0] ?? '')
    return h(
      'li',
      { 'data-key': row.key, part: 'result' },
      picture && h('img', { class: 'picture', src: this.endpoint?.picture(picture) ?? '', alt: '', loading: 'lazy' }),
      h(
        'div',
        { class: 'row' },
        h('h2', { dir: 'auto' }, head),
        ...this.fieldsOf(row),
        ...this.pageOf(row),
        row.others > 0 && h('p', { class: 'facts' }, texts.others(row.others)),
        isOpen && this.whole(row),
      ),
    )
  }

  // A row that is a page can be looked at, with what was looked for drawn on it.
  private pageOf(row: Row): Node[] {
    if (!this.about.pages || row.hits === undefined) return []
    const { texts } = this
    const isOpen = this.looking?.key === row.key
    const turn = () => {
      const wasOpen = this.looking?.key === row.key
      this.leavePage()
      if (!wasOpen) this.lookAt(row)
      this.show()
    }
    const says = isOpen ? texts.closePage : texts.openPage(row.hits.length)
    const named = { 'data-named': `page of ${row.key}`, 'aria-expanded': String(isOpen) }
    const button = h('button', { ...named, type: 'button', onclick: turn }, says)
    return this.looking && isOpen ? [button, this.looking.place] : [button]
  }

  private lookAt(row: Row): void {
    const { endpoint } = this
    if (!endpoint) return
    this.tell('click', row)
    const place = h('div', { role: 'group', 'aria-label': titleOf(row, this.about) }, this.texts.loadingPage)
    let close = () => undefined as void
    let left = false
    this.looking = { key: row.key, place, close: () => ((left = true), close()) }
    const meant = this.list?.did_you_mean
    const query = meant?.taken ? meant.query : this.asked.query
    const asked = { key: row.key, query, language: this.getAttribute('language') ?? '', typed: this.typed }
    const language = this.root.host.getAttribute('data-language') ?? 'en'
    // A script of its own: most visits open no page.
    import(/* @vite-ignore */ endpoint.script('harbor-page.js')).then(
      ({ showPage }: typeof import('./page-viewer')) => {
        if (!left) close = showPage(this.root, place, endpoint, asked, language)
      },
      () => place.replaceChildren(this.texts.silent),
    )
  }

  private leavePage(): void {
    this.looking?.close()
    this.looking = null
  }

  // Below the title, as the collection shows its records: long texts in short, the small ones in a line.
  private fieldsOf(row: Row): Node[] {
    const texts: Node[] = []
    const facts: (Node | string)[] = []
    for (const { field, length } of this.about.fields) {
      if (field === this.about.title || textOf(row.fields[field]) === '') continue
      if (length === 'line') {
        if (facts.length > 0) facts.push(' · ')
        const value = textOf(row.fields[field])
        for (const { text, marked } of pieces(value, row.marks[field] ?? []))
          facts.push(marked ? h('mark', {}, text) : text.replaceAll('\n', ', '))
        continue
      }
      const whole = textOf(row.fields[field])
      const short =
        length === 'short'
          ? shortly(row, field)
          : { text: whole, marks: row.marks[field] ?? [], before: false, after: false }
      texts.push(
        h(
          'p',
          { class: 'text', dir: 'auto' },
          short.before && '… ',
          ...pieces(short.text, short.marks).map(({ text, marked }) => (marked ? h('mark', {}, text) : text)),
          short.after && ' …',
        ),
      )
    }
    return facts.length > 0 ? [...texts, h('p', { class: 'facts', dir: 'auto' }, ...facts)] : texts
  }

  private whole(row: Row): HTMLElement {
    const { texts } = this
    const thanked = this.thanked.has(row.key)
    const thank = (event: Event) => {
      this.tell('success', row)
      this.thanked.add(row.key)
      ;(event.target as HTMLElement).replaceWith(h('span', { role: 'status' }, texts.thanks))
    }
    return h(
      'div',
      {},
      h(
        'dl',
        {},
        ...Object.entries(row.fields).flatMap(([field, value]) => [
          h('dt', {}, called(field)),
          h('dd', { dir: 'auto' }, textOf(value)),
        ]),
      ),
      thanked ? h('span', {}, texts.thanks) : h('button', { type: 'button', onclick: thank }, texts.helped),
    )
  }

  private filled(where: string, row: Row): string {
    const address = where.replace(/\{([^}]+)\}/g, (_, name: string) =>
      encodeURIComponent(name === 'key' ? row.key : textOf(row.fields[name])),
    )
    // Whatever a record holds, a link goes to a page.
    return /^(https?:|\/|\.|\?|#)/i.test(address) ? address : '#'
  }

  private tell(kind: 'click' | 'success', row: Row): void {
    if (this.list) this.endpoint?.tell(this.list.query_id, kind, row.key)
    this.dispatchEvent(new CustomEvent(`harbor-${kind}`, { detail: { key: row.key, query: this.asked.query } }))
  }

  private pages(list: List): HTMLElement | null {
    const { texts, asked } = this
    const last = Math.min(Math.ceil(list.rows / ROWS), 1_000)
    if (last < 2) return null
    const first = Math.max(1, Math.min(asked.page - 3, last - MOST_PAGES_SHOWN + 1))
    const numbers = Array.from({ length: Math.min(MOST_PAGES_SHOWN, last) }, (_, at) => first + at)
    const go = (page: number) => () => {
      this.ask({ ...asked, page })
      this.scrollIntoView({ block: 'start' })
    }
    const step = (says: string, page: number) =>
      h(
        'li',
        {},
        h('button', { type: 'button', 'data-named': says, disabled: page < 1 || page > last, onclick: go(page) }, says),
      )
    return h(
      'nav',
      { 'aria-label': texts.pages },
      h(
        'ul',
        {},
        step(texts.before, asked.page - 1),
        ...numbers.map((page) =>
          h(
            'li',
            {},
            h(
              'button',
              {
                type: 'button',
                'data-named': `page ${page}`,
                'aria-label': texts.page(page),
                'aria-current': page === asked.page ? 'page' : null,
                onclick: go(page),
              },
              String(page),
            ),
          ),
        ),
        step(texts.next, asked.page + 1),
      ),
    )
  }
}

const titleOf = (row: Row, about: About): string => (about.title !== null && textOf(row.fields[about.title])) || row.key

if (!customElements.get('harbor-search')) customElements.define('harbor-search', HarborSearch)

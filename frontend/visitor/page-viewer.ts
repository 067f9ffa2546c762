// A page that a machine read, for visitors: its picture with what they looked for drawn on it, hit by hit, the other pages
// of its thing, and its text for whoever does not see it. A script of its own, fetched when a page is opened.
import openPicture, { Point, Rect, type Viewer } from 'openseadragon'
import { h } from './dom'
import type { Box, Endpoint, PageHit, PageTold } from './endpoint'
import { pieces } from './marked'
import { pageTextsFor, type PageTexts } from './page-texts'

const CLOSER = 1.4
const STYLE_OF_VIEWER = 'data-openseadragon-mobile-css'
const STYLES = `
.page { margin-top: 10px; border: 1px solid var(--_line); border-radius: var(--_radius); overflow: hidden }
@container (max-width: 560px) { li:has(> .picture) .page { margin-inline-start: -86px } }
.page-tools { display: flex; flex-wrap: wrap; align-items: center; gap: 4px; padding: 4px 8px; border-bottom: 1px solid var(--_line) }
.page-tools [role=status] { flex: 1; min-width: 8em; color: var(--_quiet) }
.page-tools button { min-width: 36px; min-height: 36px; padding: 2px 8px }
.page-tools button:disabled { opacity: 0.4; cursor: default }
.page-picture { height: min(70vh, 640px); background: color-mix(in srgb, var(--_text) 8%, var(--_ground)) }
.page-picture p { margin: 0; padding: 12px }
.page-words { margin: 0; padding: 6px 10px; min-height: 2.6em; border-top: 1px solid var(--_line); overflow-wrap: anywhere }
.page-beside { display: flex; gap: 6px; overflow-x: auto; padding: 6px 8px; margin: 0; list-style: none; border-bottom: 1px solid var(--_line) }
.page-beside button { display: grid; justify-items: center; gap: 2px; min-width: 48px; padding: 2px 4px }
.page-beside [aria-current] { border-color: var(--_accent); border-width: 2px; font-weight: 600 }
.page-beside img { width: 40px; height: 48px; object-fit: contain }
.page details { padding: 6px 10px; border-top: 1px solid var(--_line) }
.page details p { max-height: 220px; overflow-y: auto; white-space: pre-line; margin: 4px 0; overflow-wrap: anywhere }
.page-hit { background: color-mix(in srgb, var(--_accent) 22%, transparent); outline: 1px solid var(--_accent) }
.page-hit.now { background: transparent; outline: 3px solid var(--_accent) }
`

let sheet: CSSStyleSheet | null = null
function styles(): CSSStyleSheet {
  if (!sheet) {
    sheet = new CSSStyleSheet()
    sheet.replaceSync(STYLES)
  }
  return sheet
}

export type Asked = { key: string; query: string; language: string; typed: boolean }

// Shows a page in a place. root: whose styles it takes; language: of the visitor. What it gives takes it away again.
export function showPage(
  root: ShadowRoot,
  place: HTMLElement,
  endpoint: Endpoint,
  asked: Asked,
  language: string,
): () => void {
  const own = styles()
  if (!root.adoptedStyleSheets.includes(own)) root.adoptedStyleSheets = [...root.adoptedStyleSheets, own]
  const shown = new ShownPage(place, endpoint, asked, pageTextsFor(language))
  void shown.open(asked.key)
  return () => shown.close()
}

class ShownPage {
  private readonly stopping = new AbortController()
  private viewer: Viewer | null = null
  private told: PageTold | null = null
  private now = 0
  private readonly status = h('span', { role: 'status' })
  private readonly picture = h('div', { class: 'page-picture' })
  private readonly words = h('p', { class: 'page-words' })

  constructor(
    private readonly place: HTMLElement,
    private readonly endpoint: Endpoint,
    private readonly asked: Asked,
    private readonly texts: PageTexts,
  ) {
    place.classList.add('page')
    place.addEventListener('keydown', this.press, { signal: this.stopping.signal })
  }

  close(): void {
    this.stopping.abort()
    this.viewer?.destroy()
    this.viewer = null
  }

  async open(key: string): Promise<void> {
    this.place.replaceChildren(h('p', { class: 'page-words', role: 'status' }, this.texts.loading))
    const { query, language, typed } = this.asked
    try {
      const told = await this.endpoint.page(key, query, language, typed, this.stopping.signal)
      if (this.stopping.signal.aborted) return
      this.told = told
      this.now = 0
      this.draw(told)
      this.place.scrollIntoView({ block: 'nearest' })
    } catch {
      if (!this.stopping.signal.aborted)
        this.place.replaceChildren(h('p', { class: 'page-words', role: 'alert' }, this.texts.silent))
    }
  }

  private readonly press = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return
    const act = {
      '.': () => this.step(1),
      ',': () => this.step(-1),
      '+': () => this.zoom(CLOSER),
      '-': () => this.zoom(1 / CLOSER),
      r: () => this.turn(),
      w: () => this.whole(),
    }[event.key]
    if (!act) return
    event.preventDefault()
    event.stopPropagation()
    act()
  }

  private draw(told: PageTold): void {
    const { texts } = this
    const noHits = told.hits.length === 0
    const tool = (says: string, face: string, off: boolean, keys: string, act: () => void) =>
      h(
        'button',
        {
          type: 'button',
          'aria-label': says,
          title: `${says} (${keys})`,
          'aria-keyshortcuts': keys,
          disabled: off,
          onclick: act,
        },
        face,
      )
    const noPicture = told.picture === null
    this.place.replaceChildren(
      ...this.beside(told),
      h(
        'div',
        { class: 'page-tools' },
        this.status,
        tool(texts.former, '‹', noHits, ',', () => this.step(-1)),
        tool(texts.next, '›', noHits, '.', () => this.step(1)),
        tool(texts.closer, '+', noPicture, '+', () => this.zoom(CLOSER)),
        tool(texts.farther, '−', noPicture, '-', () => this.zoom(1 / CLOSER)),
        tool(texts.turn, '⟳', noPicture, 'r', () => this.turn()),
        tool(texts.whole, '▭', noPicture, 'w', () => this.whole()),
      ),
      this.picture,
      this.words,
      h(
        'details',
        {},
        h('summary', {}, texts.text),
        h(
          'p',
          { dir: 'auto' },
          ...pieces(
            told.text,
            told.hits.map((hit) => [hit.start, hit.end] as const),
          ).map(({ text, marked }) => (marked ? h('mark', {}, text) : text)),
        ),
      ),
    )
    this.say()
    this.show(told)
  }

  private beside(told: PageTold): Node[] {
    if (told.beside.length < 2) return []
    return [
      h(
        'ul',
        { class: 'page-beside', 'aria-label': this.texts.pages },
        ...told.beside.map((one) => {
          const says = this.texts.page(one.label, one.hits)
          return h(
            'li',
            {},
            h(
              'button',
              {
                type: 'button',
                'aria-label': says,
                title: says,
                'aria-current': one.key === told.key ? 'page' : null,
                onclick: () =>
                  void this.open(one.key).then(() => this.place.querySelector<HTMLElement>('[aria-current]')?.focus()),
              },
              one.picture !== null &&
                h('img', { src: this.endpoint.picture(one.picture, true), alt: '', loading: 'lazy' }),
              String(one.hits),
            ),
          )
        }),
      ),
    ]
  }

  private show(told: PageTold): void {
    this.viewer?.destroy()
    this.viewer = null
    if (told.picture === null) {
      this.picture.replaceChildren(h('p', {}, this.texts.noPicture))
      return
    }
    this.picture.replaceChildren()
    keepStylesOut()
    const viewer = (this.viewer = openPicture({
      element: this.picture,
      tileSources: { type: 'image', url: this.endpoint.picture(told.picture), crossOriginPolicy: 'Anonymous' },
      drawer: 'canvas',
      showNavigationControl: false,
      gestureSettingsMouse: { clickToZoom: false },
      maxZoomPixelRatio: 4,
      visibilityRatio: 0.5,
      animationTime: window.matchMedia('(prefers-reduced-motion: reduce)').matches ? 0 : 0.4,
    } as Parameters<typeof openPicture>[0]))
    viewer.canvas.setAttribute('role', 'group')
    viewer.canvas.setAttribute('aria-label', this.texts.picture)
    viewer.addHandler('open', () => this.drawHits())
    viewer.addHandler('open-failed', () => this.picture.replaceChildren(h('p', {}, this.texts.noPicture)))
    viewer.addHandler('canvas-key', (event) => {
      if (!(event.originalEvent as KeyboardEvent).key.startsWith('Arrow')) event.preventDefaultAction = true
    })
    const point = (event: PointerEvent) => {
      if (!viewer.isOpen()) return
      const { left, top } = this.picture.getBoundingClientRect()
      const at = viewer.viewport.pointFromPixel(new Point(event.clientX - left, event.clientY - top))
      const { x, y } = viewer.world.getItemAt(0).viewportToImageCoordinates(at)
      const [across, down] = this.scales(viewer, told)
      this.say(wordAt(told, x / across, y / down))
    }
    this.picture.onpointermove = point
    this.picture.onpointerleave = () => this.say()
  }

  // A picture and what was read of it may be of different sizes.
  private scales(viewer: Viewer, { width, height }: PageTold): [number, number] {
    const { x, y } = viewer.world.getItemAt(0).getContentSize()
    return [width > 0 ? x / width : 1, height > 0 ? y / height : 1]
  }

  private bounds(viewer: Viewer, told: PageTold, [x, y, width, height]: Box): Rect {
    const [across, down] = this.scales(viewer, told)
    return viewer.world.getItemAt(0).imageToViewportRectangle(x * across, y * down, width * across, height * down)
  }

  private drawHits(): void {
    const { viewer, told } = this
    if (!viewer || !told || viewer.world.getItemCount() === 0) return
    viewer.clearOverlays()
    told.hits.forEach((hit, at) =>
      hit.boxes.forEach((box) => {
        const element = h('div', { class: at === this.now ? 'page-hit now' : 'page-hit' })
        viewer.addOverlay({ element, location: this.bounds(viewer, told, box) })
      }),
    )
    const whole = around(told.hits[this.now])
    if (whole) viewer.viewport.fitBoundsWithConstraints(this.bounds(viewer, told, withRoom(whole, told)))
  }

  private step(by: 1 | -1): void {
    const count = this.told?.hits.length ?? 0
    if (count === 0) return
    this.now = (this.now + by + count) % count
    this.say()
    this.drawHits()
  }

  private zoom(by: number): void {
    if (this.viewer?.isOpen()) this.viewer.viewport.zoomBy(by).applyConstraints()
  }

  private turn(): void {
    const view = this.viewer?.viewport
    view?.setRotation((view.getRotation() + 90) % 360)
  }

  private whole(): void {
    this.viewer?.viewport.setRotation(0).goHome()
  }

  private say(pointed: string | null = null): void {
    const hits = this.told?.hits ?? []
    const hit = hits[this.now]
    this.status.textContent = hits.length > 0 ? this.texts.hits(this.now + 1, hits.length) : this.texts.noHits
    if (pointed !== null) this.words.replaceChildren(this.texts.readAs(pointed))
    else if (hit) this.words.replaceChildren(h('bdi', {}, hit.before, h('mark', {}, hit.letters), hit.after))
    else this.words.replaceChildren(this.texts.point)
  }
}

// The word that a spot lies in, as it was read; the smallest box where several do.
export function wordAt(told: Pick<PageTold, 'text' | 'words'>, x: number, y: number): string | null {
  const found = told.words
    .filter(([, , left, top, width, height]) => x >= left && x <= left + width && y >= top && y <= top + height)
    .sort((one, other) => one[4] * one[5] - other[4] * other[5])[0]
  if (!found) return null
  let [start, end] = found
  while (start > 0 && !/\s/.test(told.text.charAt(start - 1))) start -= 1
  while (end < told.text.length && !/\s/.test(told.text.charAt(end))) end += 1
  return told.text.slice(start, end)
}

// The smallest rectangle around all of a hit, null where it has no box.
export function around(hit: Pick<PageHit, 'boxes'> | undefined): Box | null {
  if (!hit || hit.boxes.length === 0) return null
  const left = Math.min(...hit.boxes.map(([x]) => x))
  const top = Math.min(...hit.boxes.map(([, y]) => y))
  const right = Math.max(...hit.boxes.map(([x, , width]) => x + width))
  const bottom = Math.max(...hit.boxes.map(([, y, , height]) => y + height))
  return [left, top, right - left, bottom - top]
}

// With enough of the page around it to read on, within the page.
export function withRoom([x, y, width, height]: Box, page: { width: number; height: number }): Box {
  const across = Math.min(page.width, Math.max(width * 1.5, page.width * 0.9))
  const down = Math.min(page.height, Math.max(height * 3, page.height / 4))
  const within = (middle: number, size: number, whole: number) => Math.max(0, Math.min(whole - size, middle - size / 2))
  return [within(x + width / 2, across, page.width), within(y + height / 2, down, page.height), across, down]
}

// The viewer puts a style into the page where there is none with this mark, which a page's policy may refuse: so there is
// an empty one, with the word that our own page is given for it.
function keepStylesOut(): void {
  if (document.querySelector(`style[${STYLE_OF_VIEWER}]`)) return
  const style = document.createElement('style')
  style.setAttribute(STYLE_OF_VIEWER, '')
  style.nonce = document.querySelector<HTMLMetaElement>('meta[name=style-nonce]')?.nonce ?? ''
  document.head.append(style)
}

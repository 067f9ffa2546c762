// The box and its suggestions: a combobox with a list, by keyboard and by finger (ARIA Authoring Practices, W3C).
import { h } from './dom'
import { Latest } from './latest'
import type { Texts } from './texts'

type Heard = {
  complete: (typed: string, signal: AbortSignal) => Promise<{ completions: { text: string }[]; gathering: boolean }>
  // Something more was typed.
  typed: (query: string) => void
  // Enter was pressed, or a suggestion taken.
  chosen: (query: string) => void
}

export class Suggesting {
  readonly form: HTMLFormElement
  private readonly input: HTMLInputElement
  private readonly list: HTMLUListElement
  private readonly told: HTMLElement
  private readonly latest = new Latest()
  private texts: string[] = []
  private at = -1
  // What was typed before the arrows went into the list.
  private typed = ''

  constructor(
    private readonly words: Texts,
    private readonly heard: Heard,
  ) {
    this.input = h('input', {
      type: 'search',
      id: 'box',
      dir: 'auto',
      role: 'combobox',
      autocomplete: 'off',
      autocapitalize: 'off',
      spellcheck: 'false',
      enterkeyhint: 'search',
      maxlength: 1_000,
      'aria-autocomplete': 'list',
      'aria-expanded': 'false',
      'aria-controls': 'suggestions',
      placeholder: words.label,
      oninput: () => this.onTyped(),
      onkeydown: (event) => this.onKey(event as KeyboardEvent),
      onblur: () => this.close(),
    })
    this.list = h('ul', {
      class: 'suggestions',
      id: 'suggestions',
      role: 'listbox',
      'aria-label': words.label,
      hidden: true,
    })
    this.told = h('span', { class: 'sr', role: 'status' })
    this.form = h(
      'form',
      {
        role: 'search',
        class: 'box',
        part: 'box',
        onsubmit: (event) => {
          event.preventDefault()
          this.choose(this.input.value)
        },
      },
      h('label', { class: 'sr', for: 'box' }, words.label),
      this.input,
      h('button', { type: 'submit', class: 'go', part: 'button' }, words.search),
      this.list,
      this.told,
    )
  }

  say(query: string): void {
    if (this.input.value !== query) this.input.value = query
    this.close()
  }

  close(): void {
    this.latest.callOff()
    this.texts = []
    this.show()
  }

  private onTyped(): void {
    this.typed = this.input.value
    this.heard.typed(this.typed)
    void this.complete(this.typed)
  }

  private async complete(typed: string): Promise<void> {
    if (!typed.trim()) {
      this.close()
      return
    }
    try {
      const found = await this.latest.ask((signal) => this.heard.complete(typed, signal))
      if (found === null) return
      this.texts = found.completions.map((one) => one.text).filter((text) => text !== typed)
      this.show()
    } catch {
      // The list says what is the matter; there is nothing to suggest meanwhile.
      this.close()
    }
  }

  private show(): void {
    this.at = -1
    const open = this.texts.length > 0
    this.input.setAttribute('aria-expanded', String(open))
    this.input.removeAttribute('aria-activedescendant')
    this.list.hidden = !open
    this.told.textContent = open ? this.words.suggestions(this.texts.length) : ''
    this.list.replaceChildren(
      ...this.texts.map((text, at) =>
        h(
          'li',
          {
            id: `suggestion-${at}`,
            role: 'option',
            dir: 'auto',
            'aria-selected': 'false',
            // Before the box loses the focus, which would close the list.
            onpointerdown: (event) => event.preventDefault(),
            onclick: () => this.choose(text),
          },
          text,
        ),
      ),
    )
  }

  private onKey(event: KeyboardEvent): void {
    if (event.isComposing) return
    const open = this.texts.length > 0
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      if (!open) return
      event.preventDefault()
      this.move(event.key === 'ArrowDown' ? 1 : -1)
    } else if (event.key === 'Escape' && open) {
      event.preventDefault()
      this.input.value = this.typed
      this.close()
    }
  }

  // Through the suggestions and what was typed, round and round.
  private move(by: number): void {
    const count = this.texts.length + 1
    this.at = ((this.at + 1 + by + count) % count) - 1
    for (const [at, one] of [...this.list.children].entries()) one.setAttribute('aria-selected', String(at === this.at))
    this.input.value = this.texts[this.at] ?? this.typed
    if (this.at < 0) this.input.removeAttribute('aria-activedescendant')
    else {
      this.input.setAttribute('aria-activedescendant', `suggestion-${this.at}`)
      this.list.children[this.at]?.scrollIntoView({ block: 'nearest' })
    }
  }

  private choose(query: string): void {
    this.typed = query
    this.input.value = query
    this.close()
    this.heard.chosen(query)
  }
}

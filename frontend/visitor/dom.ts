// Elements, made of their names, attributes and children. Texts are texts: nothing here reads HTML.

export type Child = Node | string | null | false

type Attributes = Record<string, string | number | boolean | null | ((event: Event) => void)>

export function h<K extends keyof HTMLElementTagNameMap>(
  name: K,
  attributes: Attributes = {},
  ...children: Child[]
): HTMLElementTagNameMap[K] {
  const made = document.createElement(name)
  for (const [key, value] of Object.entries(attributes)) {
    if (typeof value === 'function') made.addEventListener(key.replace(/^on/, ''), value)
    else if (value === true) made.setAttribute(key, '')
    else if (value !== null && value !== false) made.setAttribute(key, String(value))
  }
  made.append(...children.filter((one) => one !== null && one !== false))
  return made
}

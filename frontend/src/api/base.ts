// Where the page is served: nothing at the top of its host, /search where a proxy has it below.
const told = typeof document === 'undefined' ? null : document.querySelector<HTMLMetaElement>('meta[name="base-path"]')

export const BASE = told?.content ?? ''

// An address of this server, as a browser asks for it.
export const here = (path: string) => BASE + path

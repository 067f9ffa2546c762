// The collection that was last looked at in this browser: where the bare address leads.
const NAME = 'pale-harbor-collection'

export function lastUsed(): string | null {
  try {
    return window.localStorage.getItem(NAME)
  } catch {
    // A browser may keep nothing.
    return null
  }
}

export function rememberUsed(collection: string) {
  try {
    window.localStorage.setItem(NAME, collection)
  } catch {
    // Then the next visit begins as the first did.
  }
}

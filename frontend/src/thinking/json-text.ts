// What is wrong with a text that should be one JSON object, null where nothing is.
export function jsonProblem(text: string): string | null {
  try {
    const value: unknown = JSON.parse(text)
    if (typeof value !== 'object' || value === null || Array.isArray(value))
      return 'A record is a JSON object: {"field": value, …}.'
    return null
  } catch (error) {
    // Browsers tell the place in words of their own, or not at all.
    const place = /position (\d+)/.exec(String(error))
    if (!place) return 'This is not JSON yet.'
    const before = text.slice(0, Number(place[1])).split('\n')
    return `This is not JSON yet: look at line ${before.length}, column ${(before.at(-1)?.length ?? 0) + 1}.`
  }
}

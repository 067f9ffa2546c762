// The same for values that say the same, in whatever order their keys stand: what was kept may come back in another.
export const inOrder = (value: unknown): string =>
  JSON.stringify(value, (_key, one: unknown) =>
    typeof one === 'object' && one !== null && !Array.isArray(one)
      ? Object.fromEntries(Object.entries(one).toSorted(([a], [b]) => (a < b ? -1 : 1)))
      : one,
  )

export const same = (a: unknown, b: unknown) => inOrder(a) === inOrder(b)

// Examples for boxes that wait to be filled, of the fields that the collection has.
type Fields = readonly { name: string; kind: string; role?: string | null }[]

const ofKind = (fields: Fields, ...kinds: string[]) =>
  fields.find((field) => kinds.includes(field.kind) && field.role !== 'key')?.name

export function filterExample(fields: Fields): string {
  const [one, number] = [ofKind(fields, 'exact', 'flag', 'text'), ofKind(fields, 'number', 'date')]
  return [one && `${one}=…`, number && `${number}:1..10`].filter(Boolean).join(', ') || 'field=…'
}

export function orderExample(fields: Fields): string {
  const [number, other] = [ofKind(fields, 'number', 'date'), ofKind(fields, 'exact', 'flag', 'text')]
  return [number && `-${number}`, other].filter(Boolean).join(', ') || '-field'
}

export const jsonFilterExample = (fields: Fields) =>
  `[{"field": "${ofKind(fields, 'exact', 'text', 'number') ?? 'field'}", "one_of": ["…"]}]`

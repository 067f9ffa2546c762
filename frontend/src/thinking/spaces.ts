// Spaces in words: where their vectors come from, how far they are, what is missing.
import type { Space, SpaceDocument } from '../api/spaces'
import { countText } from './figures'

export type SourceKind = SpaceDocument['source']['kind']

export const SOURCES: { kind: SourceKind; name: string; what: string }[] = [
  {
    kind: 'packaged',
    name: 'Packaged word vectors',
    what: 'Word vectors that come with the program: at once, offline, best in English.',
  },
  {
    kind: 'learned',
    name: 'Learned from the collection',
    what: 'Words that keep the same company here come to lie together: any language, knows the house’s own words.',
  },
  {
    kind: 'brought',
    name: 'Brought along',
    what: 'Vectors made elsewhere: a field of the records, or a .npy file and a file of keys.',
  },
  {
    kind: 'service',
    name: 'A service over HTTP',
    what: 'Asks a service that speaks the protocol in docs/vectors.md. What it costs is counted before.',
  },
]

export const sourceName = (kind: SourceKind) => SOURCES.find((one) => one.kind === kind)?.name ?? kind

// What a space is of, in one line.
export function coverText(document: SpaceDocument): string {
  const source = document.source
  if (source.kind === 'brought')
    return source.field ? `vectors in the field ${source.field}` : 'vectors from files, one for each record'
  const fields = (document.fields ?? []).join(', ')
  const rule = document.passages
  if (!rule) return `${fields}; cut as the fields say`
  const size = rule.size ?? 1
  const by =
    rule.by === 'sentences'
      ? `${size} ${size === 1 ? 'sentence' : 'sentences'}`
      : rule.by === 'size'
        ? `${size} words`
        : rule.by === 'paragraphs'
          ? 'a paragraph'
          : `pieces at “${rule.delimiter ?? ''}”`
  return `${fields}; in passages of ${by}`
}

export type Filling = { text: string; share: number | null; busy: boolean; wrong: boolean }

// How the filling stands, in words, and how much of it is done where that is known.
export function fillingOf(space: Space): Filling {
  const { state, phase, done, in_all, problem, report } = space
  if (state === 'waiting') return { text: 'waiting for its turn', share: 0, busy: true, wrong: false }
  if (state === 'running') {
    const count =
      in_all > 0 ? `: ${countText(done)} of ${countText(in_all)}` : done > 0 ? `: ${countText(done)} steps` : ''
    return { text: `${phase}${count}`, share: in_all > 0 ? Math.min(1, done / in_all) : null, busy: true, wrong: false }
  }
  if (state === 'failed') return { text: problem ?? 'it could not be filled', share: null, busy: false, wrong: true }
  if (state === 'cancelled')
    return { text: 'cancelled; what was made so far is kept', share: null, busy: false, wrong: false }
  if (state === 'new') return { text: 'no vectors yet', share: null, busy: false, wrong: false }
  const missing = report ? report.records - report.whole : 0
  return {
    text: report
      ? `${countText(report.vectors)} vectors of ${countText(report.records)} records${missing > 0 ? `, ${countText(missing)} without all of theirs` : ''}`
      : 'filled',
    share: null,
    busy: false,
    wrong: false,
  }
}

export const NAME_PATTERN = /^[a-z][a-z0-9_]{0,62}$/

// What keeps a space from being made, in words; null where nothing does.
export function notYet(name: string, document: SpaceDocument, known: readonly string[]): string | null {
  if (!NAME_PATTERN.test(name)) return 'A name: small letters, digits and _, a letter first.'
  if (known.includes(name)) return 'There is a space of that name already.'
  const { source } = document
  if (source.kind !== 'brought' && (document.fields ?? []).length === 0) return 'Choose the fields that it reads.'
  if (source.kind === 'service' && !/^https?:\/\/[^\s/?#@]+/.test(source.address))
    return 'The address of the service: http://…'
  return null
}

// What is being written of a space that is not made yet.
export type SpaceForm = {
  name: string
  kind: SourceKind
  fields: string[]
  cut: Cut
  size: number
  similarity: NonNullable<SpaceDocument['similarity']>
  chain: string
  dimensions: number
  field: string
  address: string
  token: string
  batch: number
  follow: boolean
}

export type Cut = '' | 'sentences' | 'paragraphs' | 'size'

export const formOfSpace = (texts: string[]): SpaceForm => ({
  name: '',
  kind: 'packaged',
  fields: texts.slice(0, 2),
  cut: '',
  size: 2,
  similarity: 'cosine',
  chain: 'nfkc > words > lower > accents',
  dimensions: 128,
  field: '',
  address: 'http://127.0.0.1:7350',
  token: '',
  batch: 64,
  follow: true,
})

export function documentOf(form: SpaceForm): SpaceDocument {
  const { kind, cut, size } = form
  const brought = kind === 'brought'
  return {
    source: sourceOf(form),
    fields: brought ? [] : form.fields,
    passages:
      brought || cut === '' ? null : { by: cut, size: cut === 'paragraphs' ? 1 : size, overlap: 0, delimiter: '' },
    similarity: form.similarity,
  }
}

function sourceOf(form: SpaceForm): SpaceDocument['source'] {
  switch (form.kind) {
    case 'learned':
      return { kind: 'learned', dimensions: form.dimensions, chain: form.chain }
    case 'brought':
      return { kind: 'brought', field: form.field || null }
    case 'service': {
      const { address, batch, follow } = form
      return { kind: 'service', address, token_variable: form.token || null, batch, seconds: 20, tries: 5, follow }
    }
    default:
      return { kind: 'packaged' }
  }
}

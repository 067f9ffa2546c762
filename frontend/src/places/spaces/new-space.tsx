// A new space: where its vectors come from, which fields it reads, how they are cut and compared.
import type { Collection } from '../../api/queries'
import { makeSpace } from '../../api/spaces'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { documentOf, formOfSpace, notYet, SOURCES, type SpaceForm } from '../../thinking/spaces'
import { Row } from './form-rows'
import { Brought, Learned, Service, WhatIsRead, type FormProps } from './space-form-parts'
import { letGo, useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { Select } from '../../parts/select'
import { Changing } from '../../shell/changing'

export function NewSpace({ collection, known }: { collection: Collection; known: string[] }) {
  const { change } = useAddress()
  const { busy, problem, act } = useDoing('spaces', collection.name)
  const texts = collection.fields
    .filter((field) => field.kind === 'text' && field.role !== 'key')
    .map((field) => field.name)
  const held = `new space ${collection.name}/`
  const [form, setForm] = useHeld(`${held}form`, formOfSpace(texts))
  const put = (changes: Partial<SpaceForm>) => setForm((old) => ({ ...old, ...changes }))
  const { name, kind } = form
  const document = documentOf(form)
  const missing = notYet(name, document, known)
  const make = async () => {
    const space = await act(() => makeSpace(collection.name, name, document))
    if (!space) return
    letGo(held)
    change({ space: space.name, new: null }, false)
  }
  return (
    <form
      aria-label="A new space"
      className="max-w-[720px] px-6 py-4"
      onSubmit={(event) => {
        event.preventDefault()
        if (missing === null) void make()
      }}
    >
      <Changing>
        <h2 className="pb-3 text-lg font-semibold">A new space</h2>
        <Row name="Name">
          <input
            dir="auto"
            aria-label="Name"
            autoFocus
            className="input input-sm w-[240px] border-base-300 bg-transparent"
            placeholder="meaning"
            value={name}
            maxLength={63}
            onChange={(event) => put({ name: event.target.value })}
          />
        </Row>
        <Sources form={form} put={put} />
        {kind === 'learned' && <Learned form={form} put={put} />}
        {kind === 'brought' && <Brought form={form} put={put} collection={collection} />}
        {kind === 'service' && <Service form={form} put={put} />}
        {kind !== 'brought' && <WhatIsRead form={form} put={put} texts={texts} />}
        <ComparedBy form={form} put={put} />
        {problem && <ProblemNote error={problem} />}
        <div className="flex items-center gap-4 pt-3">
          <button type="submit" className="btn btn-sm btn-primary" disabled={missing !== null || busy}>
            {kind === 'service'
              ? 'Make it and count the cost'
              : kind === 'brought' && form.field === ''
                ? 'Make it'
                : 'Make it and fill it'}
          </button>
          <button type="button" className="link" onClick={() => change({ new: null })}>
            Cancel
          </button>
          {missing !== null && <span className="quiet small">{missing}</span>}
        </div>
      </Changing>
    </form>
  )
}

function Sources({ form, put }: FormProps) {
  return (
    <Row name="Vectors">
      <div role="radiogroup" aria-label="Where vectors come from">
        {SOURCES.map((one) => (
          <label key={one.kind} className="flex cursor-pointer gap-2 py-1">
            <input
              type="radio"
              name="source"
              className="mt-[3px]"
              checked={form.kind === one.kind}
              onChange={() => put({ kind: one.kind })}
            />
            <span>
              <span className="font-semibold">{one.name}</span>
              <span className="quiet small block">{one.what}</span>
            </span>
          </label>
        ))}
      </div>
    </Row>
  )
}

const SIMILARITIES = [
  ['cosine', 'cosine: directions alone'],
  ['dot', 'dot product: lengths count'],
  ['euclidean', 'Euclidean distance'],
] as const

function ComparedBy({ form, put }: FormProps) {
  return (
    <Row name="Compared by">
      <Select
        label="Similarity"
        className="boxed w-auto bg-transparent"
        value={form.similarity}
        choices={SIMILARITIES}
        onChoose={(similarity) => put({ similarity })}
      />
    </Row>
  )
}

// A new space: where its vectors come from, which fields it reads, how they are cut and compared.
import { useState } from 'react'
import type { Collection } from '../../api/queries'
import { makeSpace, type SpaceDocument } from '../../api/spaces'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { notYet, SOURCES, type SourceKind } from '../../thinking/spaces'
import { useDoing } from '../../shell/use-doing'

const PLAIN = 'nfkc > words > lower > accents'

const CUTS = [
  ['', 'as the fields say'],
  ['sentences', 'in passages of sentences'],
  ['paragraphs', 'in paragraphs'],
  ['size', 'in passages of words'],
] as const

type Cut = (typeof CUTS)[number][0]

export function NewSpace({ collection, known }: { collection: Collection; known: string[] }) {
  const { change } = useAddress()
  const { busy, problem, act } = useDoing('spaces', collection.name)
  const texts = collection.fields
    .filter((field) => field.kind === 'text' && field.role !== 'key')
    .map((field) => field.name)
  const [name, setName] = useState('')
  const [kind, setKind] = useState<SourceKind>('packaged')
  const [fields, setFields] = useState<string[]>(() => texts.slice(0, 2))
  const [cut, setCut] = useState<Cut>('')
  const [size, setSize] = useState(2)
  const [similarity, setSimilarity] = useState<NonNullable<SpaceDocument['similarity']>>('cosine')
  const [chain, setChain] = useState(PLAIN)
  const [dimensions, setDimensions] = useState(128)
  const [field, setField] = useState('')
  const [address, setAddress] = useState('http://127.0.0.1:7350')
  const [token, setToken] = useState('')
  const [batch, setBatch] = useState(64)
  const [follow, setFollow] = useState(true)

  const source: SpaceDocument['source'] =
    kind === 'learned'
      ? { kind, dimensions, chain }
      : kind === 'brought'
        ? { kind, field: field || null }
        : kind === 'service'
          ? { kind, address, token_variable: token || null, batch, seconds: 20, tries: 5, follow }
          : { kind: 'packaged' }
  const document: SpaceDocument = {
    source,
    fields: kind === 'brought' ? [] : fields,
    passages:
      kind === 'brought' || cut === ''
        ? null
        : { by: cut, size: cut === 'paragraphs' ? 1 : size, overlap: 0, delimiter: '' },
    similarity,
  }
  const missing = notYet(name, document, known)
  const make = async () => {
    const space = await act(() => makeSpace(collection.name, name, document))
    if (space) change({ space: space.name, new: null }, false)
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
      <h1 className="pb-3 text-lg font-semibold">A new space</h1>
      <Row name="Name">
        <input
          aria-label="Name"
          autoFocus
          className="input input-sm w-[240px] border-base-300 bg-transparent"
          placeholder="meaning"
          value={name}
          maxLength={63}
          onChange={(event) => setName(event.target.value)}
        />
      </Row>
      <Row name="Vectors">
        <div role="radiogroup" aria-label="Where vectors come from">
          {SOURCES.map((one) => (
            <label key={one.kind} className="flex cursor-pointer gap-2 py-1">
              <input
                type="radio"
                name="source"
                className="mt-[3px]"
                checked={kind === one.kind}
                onChange={() => setKind(one.kind)}
              />
              <span>
                <span className="font-semibold">{one.name}</span>
                <span className="quiet small block">{one.what}</span>
              </span>
            </label>
          ))}
        </div>
      </Row>
      {kind === 'learned' && (
        <>
          <Row name="Words cut by">
            <input
              aria-label="Chain"
              className="input input-sm w-full border-base-300 bg-transparent font-mono text-[13px]"
              value={chain}
              onChange={(event) => setChain(event.target.value)}
            />
          </Row>
          <Row name="Dimensions">
            <Count name="Dimensions" value={dimensions} least={2} most={1024} onValue={setDimensions} />
          </Row>
        </>
      )}
      {kind === 'brought' && (
        <Row name="They stand in">
          <select
            aria-label="Field of vectors"
            className="boxed w-auto bg-transparent"
            value={field}
            onChange={(event) => setField(event.target.value)}
          >
            <option value="">files, to be brought afterwards</option>
            {collection.fields
              .filter((one) => one.several && one.kind === 'number')
              .map((one) => (
                <option key={one.name}>{one.name}</option>
              ))}
          </select>
        </Row>
      )}
      {kind === 'service' && (
        <>
          <Row name="Address">
            <input
              aria-label="Address of the service"
              className="input input-sm w-full border-base-300 bg-transparent font-mono text-[13px]"
              value={address}
              onChange={(event) => setAddress(event.target.value)}
            />
          </Row>
          <Row name="Token">
            <input
              aria-label="Variable with the token"
              className="input input-sm w-[320px] border-base-300 bg-transparent font-mono text-[13px]"
              placeholder="PALE_HARBOR_TOKEN, if it needs one"
              value={token}
              onChange={(event) => setToken(event.target.value)}
            />
            <p className="quiet small">the name of a variable where the server runs; the token itself is never kept</p>
          </Row>
          <Row name="Texts at once">
            <Count name="Texts at once" value={batch} least={1} most={1000} onValue={setBatch} />
          </Row>
          <Row name="Changed records">
            <label className="flex items-center gap-2">
              <input type="checkbox" checked={follow} onChange={(event) => setFollow(event.target.checked)} />
              are sent by themselves
            </label>
          </Row>
        </>
      )}
      {kind !== 'brought' && (
        <>
          <Row name="Reads">
            <div className="flex flex-wrap gap-x-4 gap-y-1">
              {texts.map((one) => (
                <label key={one} className="flex cursor-pointer items-center gap-2">
                  <input
                    type="checkbox"

                    checked={fields.includes(one)}
                    onChange={(event) =>
                      setFields(event.target.checked ? [...fields, one] : fields.filter((other) => other !== one))
                    }
                  />
                  {one}
                </label>
              ))}
              {texts.length === 0 && <span className="quiet">The collection has no field of texts.</span>}
            </div>
          </Row>
          <Row name="Long texts">
            <div className="flex items-center gap-2">
              <select
                aria-label="How texts are cut"
                className="boxed w-auto bg-transparent"
                value={cut}
                onChange={(event) => setCut(event.target.value as Cut)}
              >
                {CUTS.map(([value, words]) => (
                  <option key={value} value={value}>
                    {words}
                  </option>
                ))}
              </select>
              {(cut === 'sentences' || cut === 'size') && (
                <Count name="Size of a passage" value={size} least={1} most={10_000} onValue={setSize} />
              )}
            </div>
            <p className="quiet small">a record counts by its nearest passage</p>
          </Row>
        </>
      )}
      <Row name="Compared by">
        <select
          aria-label="Similarity"
          className="boxed w-auto bg-transparent"
          value={similarity}
          onChange={(event) => setSimilarity(event.target.value as typeof similarity)}
        >
          <option value="cosine">cosine: directions alone</option>
          <option value="dot">dot product: lengths count</option>
          <option value="euclidean">Euclidean distance</option>
        </select>
      </Row>
      {problem && <ProblemNote error={problem} />}
      <div className="flex items-center gap-4 pt-3">
        <button type="submit" className="btn btn-sm btn-primary" disabled={missing !== null || busy}>
          {kind === 'service'
            ? 'Make it and count the cost'
            : kind === 'brought' && field === ''
              ? 'Make it'
              : 'Make it and fill it'}
        </button>
        <button type="button" className="link" onClick={() => change({ new: null })}>
          Cancel
        </button>
        {missing !== null && <span className="quiet small">{missing}</span>}
      </div>
    </form>
  )
}

function Row({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <div className="line-t grid grid-cols-[120px_minmax(0,1fr)] gap-4 py-2">
      <span className="quiet pt-[3px]">{name}</span>
      <div>{children}</div>
    </div>
  )
}

function Count(props: { name: string; value: number; least: number; most: number; onValue: (value: number) => void }) {
  return (
    <input
      aria-label={props.name}
      type="number"
      min={props.least}
      max={props.most}
      className="input input-sm figure w-[90px] border-base-300 bg-transparent"
      value={props.value}
      onChange={(event) =>
        props.onValue(
          Math.max(props.least, Math.min(props.most, Math.round(Number(event.target.value)) || props.least)),
        )
      }
    />
  )
}

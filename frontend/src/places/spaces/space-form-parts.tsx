// The parts of a new space that follow from where its vectors come.
import type { Collection } from '../../api/queries'
import type { Cut, SpaceForm } from '../../thinking/spaces'
import { Count, Row } from './form-rows'
import { Select } from '../../parts/select'

const CUTS: [Cut, string][] = [
  ['', 'as the fields say'],
  ['sentences', 'in passages of sentences'],
  ['paragraphs', 'in paragraphs'],
  ['size', 'in passages of words'],
]

export type FormProps = { form: SpaceForm; put: (changes: Partial<SpaceForm>) => void }

export function Learned({ form, put }: FormProps) {
  return (
    <>
      <Row name="Words cut by">
        <input
          dir="auto"
          aria-label="Chain"
          className="input input-sm w-full border-base-300 bg-transparent font-mono text-[13px]"
          value={form.chain}
          onChange={(event) => put({ chain: event.target.value })}
        />
      </Row>
      <Row name="Dimensions">
        <Count
          name="Dimensions"
          value={form.dimensions}
          least={2}
          most={1024}
          onValue={(dimensions) => put({ dimensions })}
        />
      </Row>
    </>
  )
}

export function Brought({ form, put, collection }: FormProps & { collection: Collection }) {
  return (
    <Row name="They stand in">
      <select
        aria-label="Field of vectors"
        className="boxed w-auto bg-transparent"
        value={form.field}
        onChange={(event) => put({ field: event.target.value })}
      >
        <option value="">files, to be brought afterwards</option>
        {collection.fields
          .filter((one) => one.several && one.kind === 'number')
          .map((one) => (
            <option key={one.name}>{one.name}</option>
          ))}
      </select>
    </Row>
  )
}

export function Service({ form, put }: FormProps) {
  return (
    <>
      <Row name="Address">
        <input
          dir="auto"
          aria-label="Address of the service"
          className="input input-sm w-full border-base-300 bg-transparent font-mono text-[13px]"
          value={form.address}
          onChange={(event) => put({ address: event.target.value })}
        />
      </Row>
      <Row name="Token">
        <input
          dir="auto"
          aria-label="Variable with the token"
          className="input input-sm w-[320px] border-base-300 bg-transparent font-mono text-[13px]"
          placeholder="PALE_HARBOR_TOKEN, if it needs one"
          value={form.token}
          onChange={(event) => put({ token: event.target.value })}
        />
        <p className="quiet small">the name of a variable where the server runs; the token itself is never kept</p>
      </Row>
      <Row name="Texts at once">
        <Count name="Texts at once" value={form.batch} least={1} most={1000} onValue={(batch) => put({ batch })} />
      </Row>
      <Row name="Changed records">
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={form.follow} onChange={(event) => put({ follow: event.target.checked })} />
          are sent by themselves
        </label>
      </Row>
    </>
  )
}

export function WhatIsRead({ form, put, texts }: FormProps & { texts: string[] }) {
  const { fields, cut } = form
  return (
    <>
      <Row name="Reads">
        <div className="flex flex-wrap gap-x-4 gap-y-1">
          {texts.map((one) => (
            <label key={one} className="flex cursor-pointer items-center gap-2">
              <input
                type="checkbox"

                checked={fields.includes(one)}
                onChange={(event) =>
                  put({ fields: event.target.checked ? [...fields, one] : fields.filter((other) => other !== one) })
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
          <Select
            label="How texts are cut"
            className="boxed w-auto bg-transparent"
            value={cut}
            choices={CUTS}
            onChoose={(chosen) => put({ cut: chosen })}
          />
          {(cut === 'sentences' || cut === 'size') && (
            <Count
              name="Size of a passage"
              value={form.size}
              least={1}
              most={10_000}
              onValue={(size) => put({ size })}
            />
          )}
        </div>
        <p className="quiet small">a record counts by its nearest passage</p>
      </Row>
    </>
  )
}

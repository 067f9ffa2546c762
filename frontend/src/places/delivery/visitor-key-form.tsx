// A key for a site's pages: who may ask with it, by which ranker, and which fields answers hold.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { makeVisitorKey, putVisitorKey, type DeliveryKey } from '../../api/delivery'
import { rankers, type Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { formOf, NEW_TERMS, termsOf, toggledField, type TermsForm } from '../../thinking/visitor-terms'
import { FIELD, Labelled } from '../coming-in/form'

type Props = {
  collection: Collection
  // null: a new one.
  edited: DeliveryKey | null
  onMade: (shown: string) => void
  onLeave: () => void
}

export function VisitorKeyForm({ collection, edited, onMade, onLeave }: Props) {
  const { busy, problem, act } = useDoing('delivery', collection.name)
  const [label, setLabel] = useState(edited?.label ?? '')
  const [form, setForm] = useState<TermsForm>(edited?.terms ? formOf(edited.terms) : NEW_TERMS)
  const turn = (change: Partial<TermsForm>) => setForm((before) => ({ ...before, ...change }))
  const keep = () =>
    act(async () => {
      const terms = termsOf(form)
      if (edited) {
        await putVisitorKey(collection.name, edited.id, { label, terms })
        onLeave()
      } else onMade((await makeVisitorKey(collection.name, { label, terms, days: null })).shown)
    })
  return (
    <form
      aria-label={edited ? `Change ${edited.label}` : 'A key for a site'}
      className="line-b mb-4 max-w-[980px] pb-3"
      onSubmit={(event) => {
        event.preventDefault()
        void keep()
      }}
    >
      <Changing needs="own">
        <div className="grid grid-cols-[minmax(0,1fr)] gap-x-8 md:grid-cols-[repeat(2,minmax(0,1fr))]">
          <div>
            <Labelled label="What it is for">
              <input
                dir="auto"
                className={FIELD}
                required
                autoFocus
                maxLength={200}
                value={label}
                onChange={(event) => setLabel(event.target.value)}
              />
            </Labelled>
            <Labelled
              label="Sites whose pages may ask, one a line"
              says="Such as https://www.example.org; * for all. Pages that are served from here always may."
            >
              <textarea
                dir="auto"
                rows={2}
                className="textarea textarea-sm w-full border-base-300 bg-transparent"
                spellCheck={false}
                value={form.origins}
                onChange={(event) => turn({ origins: event.target.value })}
              />
            </Labelled>
            <RankerChoice collection={collection} value={form.ranker} onValue={(ranker) => turn({ ranker })} />
            <Limits form={form} turn={turn} />
          </div>
          <Fields collection={collection} form={form} turn={turn} />
        </div>
        <div className="flex gap-3 pt-2">
          <button type="submit" className="btn btn-sm btn-primary" disabled={busy || form.shown?.length === 0}>
            {edited ? 'Keep it so' : 'Make the key'}
          </button>
          <button type="button" className="btn btn-ghost btn-sm" onClick={onLeave}>
            Leave it
          </button>
        </div>
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}

function RankerChoice(props: { collection: Collection; value: string; onValue: (value: string) => void }) {
  const kept = useQuery(rankers(props.collection.name))
  const versions = kept.data ?? []
  const names = [...new Set(versions.map((one) => one.name))]
  return (
    <Labelled label="Answered by">
      <select className={FIELD} value={props.value} onChange={(event) => props.onValue(event.target.value)}>
        <option value="">what is live</option>
        {names.map((name) => (
          <option key={name} value={name}>
            {name}, its newest version
          </option>
        ))}
        {versions.map((one) => (
          <option key={`${one.name}:${one.version}`} value={`${one.name}:${one.version}`}>
            {one.name} {one.version}
          </option>
        ))}
      </select>
    </Labelled>
  )
}

type Turned = { form: TermsForm; turn: (change: Partial<TermsForm>) => void }

function Limits({ form, turn }: Turned) {
  const number = (label: string, value: number, least: number, onValue: (value: number) => void) => (
    <label className="block min-w-[150px] flex-1 pb-3">
      <span className="quiet small block">{label}</span>
      <input
        type="number"
        className={FIELD}
        min={least}
        required
        value={value}
        onChange={(event) => onValue(Number(event.target.value))}
      />
    </label>
  )
  return (
    <>
      <div className="flex flex-wrap gap-x-4">
        {number('Requests a minute', form.perMinute, 1, (perMinute) => turn({ perMinute }))}
        {number('from one address', form.perMinuteEach, 1, (perMinuteEach) => turn({ perMinuteEach }))}
        {number('Answered within, in ms', form.timeMs, 20, (timeMs) => turn({ timeMs }))}
      </div>
      <label className="flex items-center gap-2 pb-3">
        <input type="checkbox" checked={form.keeps} onChange={(event) => turn({ keeps: event.target.checked })} />
        keep what is asked with it: no address and no person
      </label>
    </>
  )
}

function Fields({ collection, form, turn }: Turned & { collection: Collection }) {
  const all = collection.fields.map((one) => one.name)
  const seen = (name: string) => form.shown?.includes(name) ?? true
  const searched = (name: string) => (form.searched === null ? seen(name) : form.searched.includes(name))
  return (
    <div>
      <table aria-label="Fields" className="w-full text-left">
        <thead>
          <tr className="quiet small line-b">
            <th className="py-1 font-normal">Field</th>
            <th className="px-2 font-normal">is shown</th>
            <th className="px-2 font-normal">is searched</th>
          </tr>
        </thead>
        <tbody>
          {all.map((name) => (
            <tr key={name} className="line-b">
              <td className="max-w-[220px] truncate py-1" title={name}>
                {name}
              </td>
              <td className="px-2">
                <label className="flex min-h-[24px] min-w-[24px] cursor-pointer items-center">
                  <input
                    type="checkbox"
                    aria-label={`${name} is shown`}
                    checked={seen(name)}
                    onChange={() => turn({ shown: toggledField(form.shown, all, name) })}
                  />
                </label>
              </td>
              <td className="px-2">
                <label className="flex min-h-[24px] min-w-[24px] cursor-pointer items-center">
                  <input
                    type="checkbox"
                    aria-label={`${name} is searched`}
                    checked={searched(name)}
                    onChange={() => turn({ searched: toggledField(all.filter(searched), all, name) ?? all })}
                  />
                </label>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="pt-3">
        <Labelled
          label="Filters that every record has to pass, as JSON"
          says='Such as [{"field": "place", "one_of": ["Kestrel Ness"]}]; as in a ranker.'
        >
          <textarea
            dir="auto"
            rows={3}
            className="textarea textarea-sm w-full border-base-300 bg-transparent font-mono"
            spellCheck={false}
            value={form.filters}
            onChange={(event) => turn({ filters: event.target.value })}
          />
        </Labelled>
      </div>
    </div>
  )
}

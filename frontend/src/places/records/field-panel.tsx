// One field: what it is, what it holds, what is odd about it, and how its long values are cut.
import type { Collection } from '../../api/queries'
import { putField, type FieldProfile, type Kind, type PassageRule, type Role } from '../../api/records'
import { ProblemNote } from '../../parts/notes'
import { useAddress } from '../../shell/address'
import { useDoing } from '../../shell/use-doing'
import { countText } from '../../thinking/figures'
import { KINDS } from '../../thinking/import-plan'
import { distribution, shareText, spreadText } from '../../thinking/profile'
import { Distribution } from './distribution'
import { PassagesEditor } from './passages-editor'
import { Select } from '../../parts/select'
import { Changing } from '../../shell/changing'

const ROLES: NonNullable<Role>[] = ['title', 'language', 'picture', 'places']

export function FieldPanel(props: {
  collection: Collection
  field: Collection['fields'][number]
  profiled: FieldProfile
  lookedAt: number
}) {
  const { collection, field, profiled } = props
  const { change } = useAddress()
  const { problem, act } = useDoing('collections')
  const put = (to: { kind: Kind; role: Role; passages: PassageRule | null }) =>
    void act(() => putField(collection.name, field.name, to.kind, to.role, to.passages))
  const passages = field.passages as PassageRule | null
  const now = { kind: field.kind, role: field.role ?? null, passages }
  return (
    <aside aria-label={`Field ${field.name}`} className="over line-l min-h-0 overflow-y-auto">
      <div className="line-b sticky top-0 z-10 flex items-baseline justify-between gap-2 bg-base-100 px-4 py-2">
        <h2 className="truncate text-[16px] font-semibold" title={field.name}>
          {field.name}
        </h2>
        <button type="button" className="btn btn-ghost btn-xs font-normal" onClick={() => change({ field: null })}>
          Close
        </button>
      </div>
      <Changing>
        <KindAndRole field={field} put={put} now={now} />
      </Changing>
      {problem && <ProblemNote error={problem} />}
      <FillOfField profiled={profiled} lookedAt={props.lookedAt} />
      {profiled.oddities.length > 0 && <OddCharacters profiled={profiled} change={change} />}
      <CommonValues profiled={profiled} change={change} field={field} />
      {field.kind === 'text' && (
        <PassagesEditor
          collection={collection}
          field={field.name}
          kept={passages}
          onKeep={(rule) => put({ ...now, passages: rule })}
        />
      )}
    </aside>
  )
}

type Now = { kind: Kind; role: Role; passages: PassageRule | null }

function KindAndRole({ field, put, now }: { field: Collection['fields'][number]; put: (to: Now) => void; now: Now }) {
  return (
    <div className="line-b flex gap-6 px-4 py-3">
      <label className="flex items-baseline gap-2">
        <span className="quiet small">Kind</span>
        <Select
          label="Kind"
          className="boxed low w-[92px] bg-transparent text-[14px]"
          value={field.kind}
          choices={KINDS.map((kind) => [kind, kind])}
          onChoose={(kind) => put({ ...now, kind })}
        />
      </label>
      {field.role === 'key' ? (
        <span className="quiet small self-center">the key of the records</span>
      ) : (
        <label className="flex items-baseline gap-2">
          <span className="quiet small">Role</span>
          <Select
            label="Role"
            className="boxed low w-[104px] bg-transparent text-[14px]"
            value={field.role ?? ''}
            choices={[['', 'none'], ...ROLES.map((role) => [role, role] as const)]}
            onChoose={(role) => put({ ...now, role: role || null })}
          />
        </label>
      )}
    </div>
  )
}

function FillOfField({ profiled, lookedAt }: { profiled: FieldProfile; lookedAt: number }) {
  const spread = distribution(profiled)
  return (
    <div className="line-b px-4 py-3">
      <Distribution field={profiled} />
      <p className="quiet small pt-1">
        {shareText(profiled.filled, lookedAt)} of the records have a value
        {profiled.values > profiled.filled && `, ${countText(profiled.values)} values in all`}
        {spread && `; ${spreadText(spread)}`}.
        {profiled.languages.length > 0 &&
          ` Languages: ${profiled.languages.map((one) => `${one.language} ${countText(one.count)}`).join(', ')}.`}
      </p>
    </div>
  )
}

function OddCharacters({
  profiled,
  change,
}: {
  profiled: FieldProfile
  change: ReturnType<typeof useAddress>['change']
}) {
  return (
    <section className="line-b px-4 py-3">
      <h3 className="heading quiet pb-1">Odd characters</h3>
      {profiled.oddities.map((odd) => (
        <div key={odd.kind} className="pb-2">
          <p>
            <span className="loss font-semibold">{odd.kind}</span> in {countText(odd.count)}{' '}
            {odd.count === 1 ? 'value' : 'values'}
          </p>
          <p className="quiet small">{odd.what}</p>
          <p className="flex flex-wrap gap-x-3">
            {odd.keys.map((key) => (
              <button
                key={key}
                type="button"
                className="link font-mono text-[13px]"
                onClick={() => change({ view: 'browse', key, field: null }, false)}
              >
                {key}
              </button>
            ))}
          </p>
        </div>
      ))}
    </section>
  )
}

function CommonValues({
  profiled,
  change,
  field,
}: {
  profiled: FieldProfile
  change: ReturnType<typeof useAddress>['change']
  field: Collection['fields'][number]
}) {
  return (
    <section className="line-b px-4 py-3">
      <h3 className="heading quiet pb-1">{(profiled.top[0]?.count ?? 0) > 1 ? 'Commonest values' : 'Some values'}</h3>
      <ul>
        {profiled.top.slice(0, (profiled.top[0]?.count ?? 0) > 1 ? 20 : 6).map((top, i) => (
          <li key={i}>
            <button
              type="button"
              title="Records that hold it"
              className="flex w-full cursor-pointer items-baseline gap-3 text-left hover:bg-base-200"
              onClick={() => change({ view: 'browse', words: top.value, in: field.name, field: null }, false)}
            >
              <span className="min-w-0 flex-1 truncate">{top.value}</span>
              {(profiled.top[0]?.count ?? 0) > 1 && <span className="figure quiet small">{countText(top.count)}</span>}
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}

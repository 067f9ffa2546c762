// The first rows as they will be read. Whatever was guessed stands above its column and can be corrected.
import type { Collection } from '../../api/queries'
import type { FieldPlan, ImportPlan, Preview, Role } from '../../api/records'
import { countText } from '../../thinking/figures'
import { DELIMITERS, KINDS, KIND_WORDS, withField, withRole } from '../../thinking/import-plan'
import { valueText } from '../../thinking/records'
import { Select } from '../../parts/select'
import { TakeAway } from '../../parts/take-away'

const ROLES: NonNullable<Role>[] = ['key', 'title', 'language', 'picture', 'places']
const ENCODINGS = ['utf-8', 'utf-16', 'cp1252', 'iso8859-15', 'cp1250', 'cp1251', 'shift_jis', 'gb18030']
const SELECT = 'boxed low w-full bg-transparent text-[13px]'

type PlanProps = { plan: ImportPlan; onPlan: (plan: ImportPlan, readAgain: boolean) => void }

export function PlanTable(
  props: PlanProps & {
    preview: Preview
    name: string
    collection: Collection | null
    busy: boolean
    onName: (name: string) => void
    // null where records are there already, and a ranker has been worked on.
    tuneStart: boolean | null
    onTuneStart: (tuneStart: boolean) => void
    onGo: () => void
    onLeave: () => void
  },
) {
  const { preview, plan, onPlan, busy } = props
  const fields = plan.fields ?? []
  const isNew = props.collection === null || props.name !== props.collection.name
  return (
    <div>
      <HowItIsRead preview={preview} plan={plan} onPlan={onPlan} />
      <FirstRows fields={fields} plan={plan} onPlan={onPlan} preview={preview} />
      {preview.rejects.length > 0 && <RejectedRows preview={preview} />}
      <WhereItGoes
        name={props.name}
        onName={props.onName}
        isNew={isNew}
        collection={props.collection}
        plan={plan}
        onPlan={onPlan}
        tuneStart={props.tuneStart}
        onTuneStart={props.onTuneStart}
        onLeave={props.onLeave}
        busy={busy}
        onGo={props.onGo}
      />
    </div>
  )
}

function HowItIsRead({ preview, plan, onPlan }: PlanProps & { preview: Preview }) {
  return (
    <div className="line-b flex flex-wrap items-center gap-x-4 gap-y-2 px-4 py-2">
      <span className="min-w-0 truncate">
        <b className="font-semibold">{preview.name}</b> <span className="quiet">read as {preview.format}</span>
      </span>
      {plan.format === 'delimited' && (
        <>
          <DelimiterChoice plan={plan} onPlan={onPlan} />
          <EncodingChoice plan={plan} onPlan={onPlan} />
        </>
      )}
      <span className="quiet small">
        {preview.complete
          ? `all ${countText(preview.looked_at)} rows looked at`
          : `the first ${countText(preview.looked_at)} rows looked at`}
        {preview.rejected > 0 && <span className="loss">, {countText(preview.rejected)} of them cannot be read</span>}
      </span>
      {preview.rows.length > 0 && (
        <TakeAway
          what="the first rows as they will be read"
          file={`${preview.name}-first-rows`}
          rows={() => firstRows(preview, plan.fields ?? [])}
        />
      )}
    </div>
  )
}

// All that were looked at closely, the reason where one cannot be read.
const firstRows = (preview: Preview, fields: FieldPlan[]) => [
  ['line', ...fields.map((field) => field.name), 'cannot be read'],
  ...preview.rows.map((row) => [
    ...[row.line, ...fields.map((field) => (row.key === null ? '' : valueText(row.values[field.name])))],
    row.key === null ? (row.reason ?? '') : '',
  ]),
]

function DelimiterChoice({ plan, onPlan }: PlanProps) {
  return (
    <label className="flex items-center gap-2">
      <span className="quiet small">delimiter</span>
      <select
        aria-label="Delimiter"
        className={`${SELECT} !w-[110px]`}
        value={plan.delimiter ?? ','}
        onChange={(event) =>
          onPlan({ ...plan, delimiter: event.target.value, fields: null, columns: null, key: null }, true)
        }
      >
        {DELIMITERS.map(({ value, name }) => (
          <option key={value} value={value}>
            {name}
          </option>
        ))}
      </select>
    </label>
  )
}

function EncodingChoice({ plan, onPlan }: PlanProps) {
  return (
    <label className="flex items-center gap-2">
      <span className="quiet small">encoding</span>
      <select
        aria-label="Encoding"
        className={`${SELECT} !w-[110px]`}
        value={plan.encoding ?? 'utf-8'}
        onChange={(event) => onPlan({ ...plan, encoding: event.target.value, columns: null }, true)}
      >
        {[...new Set([plan.encoding ?? 'utf-8', ...ENCODINGS])].map((encoding) => (
          <option key={encoding}>{encoding}</option>
        ))}
      </select>
    </label>
  )
}

function FirstRows({ fields, plan, onPlan, preview }: PlanProps & { fields: FieldPlan[]; preview: Preview }) {
  return (
    <div className="line-b overflow-x-auto">
      <table className="border-collapse text-left" aria-label="The first rows">
        <thead>
          <tr className="line-b align-top">
            <th className="quiet small py-2 pr-2 pl-4 font-normal">line</th>
            {fields.map((field) => (
              <FieldHead key={field.name} field={field} plan={plan} onPlan={onPlan} />
            ))}
          </tr>
        </thead>
        <tbody>
          {preview.rows.slice(0, preview.rejects.length > 0 ? 8 : 12).map((row) => (
            <tr key={row.line} className="line-b">
              <td className="quiet small figure py-1 pr-2 pl-4">{row.line}</td>
              {row.key === null ? (
                <td colSpan={fields.length} className="loss px-2">
                  {row.reason}
                </td>
              ) : (
                fields.map((field) => (
                  <td
                    key={field.name}
                    className={`max-w-[220px] truncate px-2 ${field.keep === false ? 'quiet line-through' : ''} ${field.kind === 'number' ? 'figure' : ''}`}
                  >
                    {valueText(row.values[field.name]).replaceAll('\n', field.several ? ' ¦ ' : ' ')}
                  </td>
                ))
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

function RejectedRows({ preview }: { preview: Preview }) {
  return (
    <section aria-label="Rows that cannot be read" className="line-b px-4 py-2">
      <p className="quiet small">
        These rows are kept with their reason, to be mended after the import; the rest goes in. Another kind of a field
        may let them in.
      </p>
      <ul className="max-h-[96px] overflow-y-auto">
        {preview.rejects.map((row) => (
          <li key={row.line} className="small flex gap-3">
            <span className="quiet figure w-[64px] shrink-0">line {countText(row.line)}</span>
            <span className="wrap-anywhere">{row.reason}</span>
          </li>
        ))}
      </ul>
    </section>
  )
}

function WhereItGoes({
  name,
  onName,
  isNew,
  collection,
  plan,
  onPlan,
  tuneStart,
  onTuneStart,
  onLeave,
  busy,
  onGo,
}: PlanProps & {
  name: string
  onName: (name: string) => void
  isNew: boolean
  collection: Collection | null
  tuneStart: boolean | null
  onTuneStart: (tuneStart: boolean) => void
  onLeave: () => void
  busy: boolean
  onGo: () => void
}) {
  const meetsRecords = !isNew && (collection?.records ?? 0) > 0
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2 px-4 py-3">
      <label className="flex items-center gap-2">
        <span>into the collection</span>
        <input
          dir="auto"
          aria-label="Collection to import into"
          className="input input-sm w-[180px] border-base-300 bg-transparent"
          maxLength={63}
          value={name}
          onChange={(event) => onName(event.target.value)}
        />
      </label>
      {meetsRecords && <WhatIsThere plan={plan} onPlan={onPlan} />}
      {tuneStart !== null && (
        <label
          className="flex items-center gap-2"
          title="Two hundred queries are made up from the records’ words; what holds on those held out is kept"
        >
          <input type="checkbox" checked={tuneStart} onChange={(event) => onTuneStart(event.target.checked)} />
          <span>and tune the first ranker on made-up queries</span>
        </label>
      )}
      <span className="quiet small">
        {plan.key ? (
          <>
            records are known by <b className="font-semibold">{plan.key}</b>
          </>
        ) : (
          'no key chosen: records are known by the number of their row'
        )}
      </span>
      <span className="flex-1" />
      <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={onLeave}>
        Cancel
      </button>
      <button type="button" className="btn btn-primary btn-sm" disabled={busy || name === ''} onClick={onGo}>
        {meetsRecords ? 'See what it would do' : 'Import'}
      </button>
    </div>
  )
}

// What becomes of records that are there already.
function WhatIsThere({ plan, onPlan }: PlanProps) {
  return (
    <>
      <Select
        label="Records that it names"
        className="boxed low bg-transparent text-[13px]"
        value={plan.fill_in ? 'fill in' : 'replace'}
        choices={[
          ['replace', 'its rows replace their records'],
          ['fill in', 'its rows fill in their records'],
        ]}
        title="Filled in, a record keeps the fields that its row leaves empty or does not have"
        onChoose={(way) => onPlan({ ...plan, fill_in: way === 'fill in' }, false)}
      />
      <label className="flex items-center gap-2" title="In one step; what goes can be restored">
        <input
          type="checkbox"
          checked={plan.replace ?? false}
          onChange={(event) => onPlan({ ...plan, replace: event.target.checked }, false)}
        />
        <span>and delete records that are not in it</span>
      </label>
    </>
  )
}

function FieldHead({ field, plan, onPlan }: PlanProps & { field: FieldPlan }) {
  const change = (to: Partial<FieldPlan>) => onPlan(withField(plan, field.name, to), true)
  return (
    <th className="min-w-[116px] px-2 py-2 font-normal">
      <span className="block max-w-[200px] truncate pb-1 font-semibold" title={field.name}>
        {field.name}
      </span>
      <span className="flex flex-col gap-1">
        <Select
          label={`Kind of ${field.name}`}
          title={KIND_WORDS[field.kind ?? 'text']}
          className={SELECT}
          value={field.keep === false ? '' : (field.kind ?? 'text')}
          choices={[...KINDS.map((kind) => [kind, kind] as const), ['', 'leave out']]}
          onChoose={(kind) => change(kind === '' ? { keep: false } : { kind, keep: true })}
        />
        <Select
          label={`Role of ${field.name}`}
          className={`${SELECT} ${field.role ? 'font-semibold' : 'quiet'}`}
          value={field.role ?? ''}
          choices={[['', 'no role'], ...ROLES.map((role) => [role, role] as const)]}
          onChoose={(role) => onPlan(withRole(plan, field.name, role || null), true)}
        />
        <label className="quiet small flex items-center gap-1">
          <input
            type="checkbox"
            aria-label={`${field.name} holds several values`}
            checked={field.several ?? false}
            onChange={(event) =>
              change({
                several: event.target.checked,
                split: event.target.checked && plan.format === 'delimited' ? (field.split ?? ';') : null,
              })
            }
          />
          several
          {field.several && plan.format === 'delimited' && (
            <>
              , at
              <input
                dir="auto"
                aria-label={`Delimiter of the values of ${field.name}`}
                className="input input-xs w-[36px] border-base-300 bg-transparent px-1 text-center font-mono"
                maxLength={8}
                value={field.split ?? ''}
                onChange={(event) => change({ split: event.target.value || null })}
              />
            </>
          )}
        </label>
      </span>
    </th>
  )
}

// A record of one's own, begun with the fields that the collection has.
import type { Collection } from '../../api/queries'
import { putRecords } from '../../api/records'
import { ProblemNote } from '../../parts/notes'
import { letGo } from '../../parts/use-held'
import { RecordEditor } from './record-editor'
import { useDoing } from '../../shell/use-doing'

export function NewRecord({ collection, onAdded }: { collection: Collection; onAdded: (key: string) => void }) {
  const { busy, problem, act } = useDoing('everything')
  const keyField = collection.fields.find((field) => field.role === 'key')?.name
  const put = async (values: Record<string, unknown>) => {
    if (!(await act(() => putRecords(collection.name, [values])))) return
    letGo(`record ${collection.name}//`)
    onAdded(String(values[keyField ?? ''] ?? ''))
  }
  const begun = Object.fromEntries(
    collection.fields.map((field) => [field.name, field.several ? [] : field.kind === 'number' ? 0 : '']),
  )
  return (
    <aside aria-label="Add a record" className="line-l min-h-0 overflow-y-auto">
      <h2 className="line-b px-4 py-2 text-[16px] font-semibold">Add a record</h2>
      <p className="quiet small px-4 pt-3">
        {keyField
          ? `${keyField} names it; leave out what it does not have.`
          : 'The collection needs a key field first: import some records.'}
      </p>
      {problem && <ProblemNote error={problem} />}
      <RecordEditor
        of={`${collection.name}/`}
        text={JSON.stringify(begun, null, 2)}
        saves="Add"
        busy={busy}
        onSave={put}
      />
    </aside>
  )
}

// A record of one's own, begun with the fields that the collection has.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import type { Collection } from '../../api/queries'
import { putRecords } from '../../api/records'
import { ProblemNote } from '../../parts/notes'
import { RecordEditor } from './record-editor'
import { refreshRecords } from '../../api/refresh'

export function NewRecord({ collection, onAdded }: { collection: Collection; onAdded: (key: string) => void }) {
  const client = useQueryClient()
  const keyField = collection.fields.find((field) => field.role === 'key')?.name
  const put = useMutation({
    mutationFn: (values: Record<string, unknown>) => putRecords(collection.name, [values]),
    onSuccess: async (_, values) => {
      await refreshRecords(client)
      onAdded(String(values[keyField ?? ''] ?? ''))
    },
  })
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
      {put.isError && <ProblemNote error={put.error} />}
      <RecordEditor text={JSON.stringify(begun, null, 2)} saves="Add" busy={put.isPending} onSave={put.mutate} />
    </aside>
  )
}

// The page that a record is which judges grade apart, with what its query matched drawn on it.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { search, type Collection } from '../../api/queries'
import { PageViewer } from '../../scans/page-viewer'
import { isPage, valueText } from '../../thinking/records'

// Nothing for a record that is no page, or that its query does not find.
export function PageOfConflict(props: { collection: Collection; query: string; recordKey: string }) {
  const { collection, query, recordKey } = props
  const field = collection.fields.find((one) => one.role === 'key')?.name ?? ''
  const paged = collection.fields.some((one) => one.role === 'places')
  const [open, setOpen] = useState(false)
  const asked = useQuery({
    ...search(collection.name, query, {}, 1, { filters: [{ field, one_of: [recordKey] }] }),
    enabled: paged && field !== '' && open,
  })
  if (!paged || field === '') return null
  const row = asked.data?.results.find((one) => one.key === recordKey)
  return (
    <details className="pt-1" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="small cursor-pointer">The page, with what was asked marked on it</summary>
      {open && asked.isSuccess && (
        <div className="mt-1 h-[60vh] border border-base-300">
          <PageViewer
            collection={collection.name}
            recordKey={recordKey}
            marks={row && isPage(row.field_values) ? row.marks : {}}
            areOf={(of, text) => !row || valueText(row.field_values[of]) === text}
          />
        </div>
      )}
    </details>
  )
}

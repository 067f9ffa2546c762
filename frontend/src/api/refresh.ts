// After records changed, nothing that was said of them holds any longer. What is gone (a record's key,
// a collection's name) is not asked for again.
import type { QueryClient } from '@tanstack/react-query'

export const refreshRecords = (client: QueryClient, gone?: string) =>
  client.invalidateQueries({ predicate: (query) => gone === undefined || !query.queryKey.includes(gone) })

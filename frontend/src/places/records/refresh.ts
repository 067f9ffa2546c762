// After records changed, nothing that was said of them holds any longer.
import type { QueryClient } from '@tanstack/react-query'

export const refreshRecords = (client: QueryClient) => client.invalidateQueries()

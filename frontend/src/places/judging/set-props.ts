import type { JudgedSummary } from '../../api/judging'
import type { Collection } from '../../api/queries'

// What every view of a judged set is given.
export type SetProps = { collection: Collection; set: JudgedSummary }

// What every view of the delivery gets.
import type { Collection } from '../../api/queries'

export type DeliveryProps = { collection: Collection }

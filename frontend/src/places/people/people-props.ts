import type { Me } from '../../api/people'
import type { Collection } from '../../api/queries'

export type PeopleProps = { collection: Collection; me: Me }

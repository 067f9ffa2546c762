// What somebody may do here, and the words for it.
import type { Me, Role } from '../api/people'

export const ROLES: readonly Role[] = ['judge', 'reader', 'engineer', 'owner']

export const ROLE_SAYS: Record<Role, string> = {
  judge: 'judges what is given to them',
  reader: 'looks, and measures what is open',
  engineer: 'changes what is in it',
  owner: 'opens locked queries, and lets others in',
}

// As what somebody is here; without a sign-in everybody is the keeper of this machine.
export function roleIn(me: Me, collection: string): Role | 'keeper' | null {
  if (!me.needs_sign_in || me.person?.keeper) return 'keeper'
  return me.person?.roles[collection] ?? null
}

// make: whether they may make collections, whichever this one is.
export type Rights = { look: boolean; change: boolean; own: boolean; keep: boolean; make: boolean }

export function rightsIn(me: Me, collection: string): Rights {
  const role = roleIn(me, collection)
  const own = role === 'keeper' || role === 'owner'
  const change = own || role === 'engineer'
  const keep = role === 'keeper'
  return { look: change || role === 'reader', change, own, keep, make: keep || !!me.person?.makes_collections }
}

// Where somebody goes on after they signed in: within this page alone.
export function placeToGoOn(wanted: string | null): string {
  return wanted !== null && /^\/(?![/\\])/.test(wanted) ? wanted : '/'
}

// Said to those who may not.
export const FOR_WHOM = {
  change: 'For engineers and owners of the collection',
  own: 'For owners of the collection',
  make: 'For those who may make collections, which keepers decide',
} as const satisfies Partial<Record<keyof Rights, string>>

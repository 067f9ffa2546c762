// Who is here: signing in and out, people, members, invitations, and who changed what.
import { queryOptions } from '@tanstack/react-query'
import { here } from './base'
import { answer, done, server, type Schemas } from './client'

export type Me = Schemas['Me']
export type Role = Schemas['MemberRequest']['role']
export type Person = Schemas['PersonModel']
export type Invitation = Schemas['InvitationModel']
export type Members = Schemas['Members']
export type NotedChange = Schemas['NotedChange']
export type Visit = Schemas['Visit']

const of = (collection: string) => ({ path: { collection } })

export const me = () =>
  queryOptions({
    queryKey: ['people', 'me'],
    queryFn: ({ signal }) => answer(server.GET('/api/me', { signal })),
    staleTime: 60_000,
  })

export const signIn = (name: string, password: string) =>
  done(server.POST('/api/sign-in', { body: { name, password } }))
export const signOut = () => done(server.POST('/api/sign-out'))

export const invited = (token: string) =>
  queryOptions({
    queryKey: ['people', 'invited', token],
    queryFn: ({ signal }) => answer(server.GET('/api/invitations/{token}', { params: { path: { token } }, signal })),
  })

type Newcomer = { name: string | null; shown: string | null; password: string | null }

export const takeInvitation = (token: string, body: Newcomer) =>
  done(server.POST('/api/invitations/{token}', { params: { path: { token } }, body }))

export const ownTasks = () =>
  queryOptions({
    queryKey: ['people', 'own tasks'],
    queryFn: ({ signal }) => answer(server.GET('/api/me/tasks', { signal })),
  })

export const ownVisits = () =>
  queryOptions({
    queryKey: ['people', 'visits'],
    queryFn: ({ signal }) => answer(server.GET('/api/me/visits', { signal })),
  })

export const endVisit = (number: string) =>
  done(server.DELETE('/api/me/visits/{number}', { params: { path: { number } } }))
export const makeKey = (label: string, days: number) => answer(server.POST('/api/me/keys', { body: { label, days } }))
export const changePassword = (old: string, next: string) =>
  done(server.POST('/api/me/password', { body: { old, new: next } }))

export const people = () =>
  queryOptions({
    queryKey: ['people', 'everybody'],
    queryFn: ({ signal }) => answer(server.GET('/api/people', { signal })),
  })

export const addPerson = (body: { name: string; shown: string; password: string; keeper: boolean }) =>
  answer(server.POST('/api/people', { body }))
export const changePerson = (
  person: string,
  change: Partial<{ keeper: boolean; makes_collections: boolean; left: boolean }>,
) =>
  answer(
    server.PUT('/api/people/{person}', {
      params: { path: { person } },
      body: { keeper: null, makes_collections: null, left: null, ...change },
    }),
  )
export const forgetPerson = (person: string) =>
  done(server.DELETE('/api/people/{person}', { params: { path: { person } } }))
export const setPasswordOf = (person: string, password: string) =>
  done(server.PUT('/api/people/{person}/password', { params: { path: { person } }, body: { password } }))
export const inviteKeeper = (shown: string) =>
  answer(server.POST('/api/people/invitations', { body: { shown, days: 7 } }))
export const drawKeeperBack = (number: number) =>
  done(server.DELETE('/api/people/invitations/{number}', { params: { path: { number } } }))

export const members = (collection: string) =>
  queryOptions({
    queryKey: ['people', 'members', collection],
    queryFn: ({ signal }) =>
      answer(server.GET('/api/collections/{collection}/members', { params: of(collection), signal })),
  })

export const setMember = (collection: string, person: string, role: Role) =>
  answer(
    server.PUT('/api/collections/{collection}/members/{person}', {
      params: { path: { collection, person } },
      body: { role },
    }),
  )
export const dropMember = (collection: string, person: string) =>
  answer(server.DELETE('/api/collections/{collection}/members/{person}', { params: { path: { collection, person } } }))
export const inviteMember = (collection: string, shown: string, role: Role) =>
  answer(
    server.POST('/api/collections/{collection}/invitations', {
      params: of(collection),
      body: { shown, role, days: 7 },
    }),
  )
export const drawMemberBack = (collection: string, number: number) =>
  done(
    server.DELETE('/api/collections/{collection}/invitations/{number}', { params: { path: { collection, number } } }),
  )

export type ChangesAsked = { person: string; text: string }

const filtered = ({ person, text }: ChangesAsked) => ({ ...(person && { person }), ...(text && { text }) })

// The newest ones. collection: null for all of the installation; before: those that are older than the change of that
// number.
export function changesOf(collection: string | null, asked: ChangesAsked, before: number | null) {
  const query = { ...filtered(asked), ...(before !== null && { before }) }
  return answer(
    collection === null
      ? server.GET('/api/changes', { params: { query } })
      : server.GET('/api/collections/{collection}/changes', { params: { path: { collection }, query } }),
  )
}

export function changesFile(collection: string | null, asked: ChangesAsked): string {
  const of = collection === null ? '' : `/collections/${encodeURIComponent(collection)}`
  return here(`/api${of}/changes/file?${new URLSearchParams(filtered(asked)).toString()}`)
}

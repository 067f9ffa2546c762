"""Members of a collection, and invitations: a link by which somebody comes in."""

from dataclasses import dataclass
from typing import Any, Final

from psycopg import Connection

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import Pool
from pale_harbor.store.people import members
from pale_harbor.store.people.members import Invitation, Member
from pale_harbor.store.people.people import Person, add_person, change_person, person_named
from pale_harbor.work.people.passwords import hashed
from pale_harbor.work.people.people import MOST_SHOWN, checked_names
from pale_harbor.work.people.rights import ROLES, Role
from pale_harbor.work.people.tokens import hash_of, new_token

INVITED_DAYS: Final = 7.0
_GONE: Final = "This invitation was taken, drawn back, or has ended. Ask for a new one."


@dataclass(frozen=True, slots=True, kw_only=True)
class Members:
    """Who may do what with a collection, and who is asked to."""

    members: list[Member]
    invited: list[Invitation]


def members_told(pool: Pool, collection_name: str) -> Members:
    """A collection's members and invitations. Raises NotFound."""
    with pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        return Members(
            members=members.members_of(connection, collection.id),
            invited=members.invitations_of(connection, collection.id),
        )


def set_member(pool: Pool, collection_name: str, name: str, role: Role) -> None:
    """Makes somebody a member of a collection, or gives them another role. Raises NotFound, BadInput."""
    with pool.connection() as connection:
        collection = collection_named(connection, collection_name, lock=True)
        person = person_named(connection, name)
        if role != "owner":
            _keep_an_owner(members.members_of(connection, collection.id), person)
        members.set_member(connection, collection.id, person.id, role)


def drop_member(pool: Pool, collection_name: str, name: str) -> None:
    """Somebody is no member any more. Raises NotFound, BadInput where no owner would be left."""
    with pool.connection() as connection:
        collection = collection_named(connection, collection_name, lock=True)
        person = person_named(connection, name)
        _keep_an_owner(members.members_of(connection, collection.id), person)
        if not members.drop_member(connection, collection.id, person.id):
            raise NotFound(f'{person.shown} is no member of "{collection_name}".')


def invite(
    pool: Pool,
    shown: str,
    collection_name: str | None,
    role: Role | None,
    *,
    keeper: bool = False,
    days: float = INVITED_DAYS,
) -> str:
    """Invites somebody to a collection, or to keep the installation; returns what their link ends with, this once.

    Raises NotFound, BadInput.
    """
    shown = " ".join(shown.split())
    if not shown or len(shown) > MOST_SHOWN or not shown.isprintable():
        raise BadInput(f"Say who is invited, in {MOST_SHOWN} signs at most.")
    token = new_token()
    with pool.connection() as connection:
        collection_id = None if collection_name is None else collection_named(connection, collection_name).id
        members.add_invitation(connection, hash_of(token), shown, collection_id, role, keeper=keeper, days=days)
    return token


def keepers_invited(pool: Pool) -> list[Invitation]:
    """Invitations to keep the installation."""
    with pool.connection() as connection:
        return members.invitations_of(connection, None)


def draw_back(pool: Pool, collection_name: str | None, invitation: int) -> None:
    """Draws an invitation back. Raises NotFound."""
    with pool.connection() as connection:
        collection_id = None if collection_name is None else collection_named(connection, collection_name).id
        if not members.drop_invitation(connection, invitation, collection_id):
            raise NotFound(_GONE)


def invitation_told(pool: Pool, token: str) -> Invitation:
    """What an invitation is to. Raises NotFound where it does not hold any more."""
    with pool.connection() as connection:
        found = members.invitation_with(connection, hash_of(token))
    if found is None:
        raise NotFound(_GONE)
    return found


def take_as_new(pool: Pool, token: str, name: str, shown: str, password: str) -> int:
    """Somebody new takes an invitation; returns who they are from now on. Raises NotFound, BadInput."""
    name, shown = checked_names(name, shown)
    invitation_told(pool, token)
    kept = hashed(password, (name, shown))
    with pool.connection() as connection:
        person = add_person(connection, name, shown, kept)
        take_invitation_as(connection, token, person)
        return person.id


def take_as(pool: Pool, token: str, name: str) -> None:
    """Somebody who is known here takes an invitation. Raises NotFound."""
    with pool.connection() as connection:
        take_invitation_as(connection, token, person_named(connection, name))


def take_invitation_as(connection: Connection[Any], token: str, person: Person) -> None:
    """Gives somebody what an invitation is to, within a transaction; it holds no more. Raises NotFound."""
    found = members.invitation_with(connection, hash_of(token))
    if found is None:
        raise NotFound(_GONE)
    if found.keeper:
        change_person(connection, person.id, keeper=True, makes_collections=person.makes_collections, left=False)
    if found.collection_id is not None and found.role is not None:
        already = next(
            (one for one in members.members_of(connection, found.collection_id) if one.name == person.name), None
        )
        # An invitation gives, and takes nothing away.
        if already is None or _rank(already.role) < _rank(found.role):
            members.set_member(connection, found.collection_id, person.id, found.role)
    members.drop_invitation(connection, found.id, found.collection_id)


def _rank(role: str) -> int:
    return list(ROLES).index(role)  # pyright: ignore[reportArgumentType]


def _keep_an_owner(known: list[Member], person: Person) -> None:
    owners = [one.name for one in known if one.role == "owner" and not one.left]
    if owners == [person.name]:
        raise BadInput(f"{person.shown} is the collection's only owner. Make somebody else its owner first.")

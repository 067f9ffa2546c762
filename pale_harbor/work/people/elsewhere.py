"""Whoever another place knows, and who they are here."""

import re
from typing import Final

from pale_harbor.errors import BadInput, NotAllowed
from pale_harbor.store.database import Pool
from pale_harbor.store.people.people import (
    Person,
    add_person,
    are_there_people,
    bind_to_issuer,
    person_of_issuer,
    unbound_person,
)
from pale_harbor.work.people.members import invitation_told, take_invitation_as
from pale_harbor.work.people.people import checked_names
from pale_harbor.work.people.provider import Identity

_INVITED: Final = re.compile(r"/invited/([A-Za-z0-9_-]{20,100})")


def person_elsewhere(pool: Pool, identity: Identity, to: str) -> int:
    """The id of whoever another place says somebody is.

    Who came before is who they were. Else somebody whom a keeper made without a password by a name that the place
    proves, or somebody new, if they come by an invitation (to: where they wanted to go). Raises NotAllowed for others.
    """
    with pool.connection() as connection:
        known = person_of_issuer(connection, identity.issuer, identity.subject)
        if known is not None:
            return known
        person = next((own for name in identity.names if (own := unbound_person(connection, name))), None)
        if person is not None:
            bind_to_issuer(connection, person.id, identity.issuer, identity.subject)
            return person.id
        has_people = are_there_people(connection)
    invitation = _INVITED.fullmatch(to)
    if invitation is not None and has_people:
        return _made_by_invitation(pool, identity, invitation[1])
    called = f" as {identity.names[0]}" if identity.names else ""
    raise NotAllowed(
        f"You are known there{called}, but nobody let you in here yet. Ask a keeper for an invitation, and sign in "
        "from its page."
    )


def bind_person(pool: Pool, person_id: int, identity: Identity) -> None:
    """Lets somebody who is signed in sign in there from now on, too. Raises BadInput where somebody else does."""
    with pool.connection() as connection:
        bind_to_issuer(connection, person_id, identity.issuer, identity.subject)


def _made_by_invitation(pool: Pool, identity: Identity, token: str) -> int:
    shown = invitation_told(pool, token).shown
    refused: BadInput | None = None
    for wanted in (*identity.names, _as_name(identity.subject)):
        try:
            name, shown = checked_names(wanted, shown)
            with pool.connection() as connection:
                person: Person = add_person(connection, name, shown, None)
                bind_to_issuer(connection, person.id, identity.issuer, identity.subject)
                take_invitation_as(connection, token, person)
                return person.id
        except BadInput as error:
            refused = refused or error
    raise NotAllowed(f"No account could be made for you here: {refused}") from refused


def _as_name(subject: str) -> str:
    """
    >>> _as_name("CN=Nora Vane/7")
    'cn-nora-vane-7'
    """
    return re.sub(r"[^a-z0-9._@-]+", "-", subject.lower()).strip("._@-")[:63]

"""People: made, changed, forgotten; their passwords. One keeper stays as long as there is anybody."""

import re
from typing import Final

from pale_harbor.errors import BadInput, NotAllowed
from pale_harbor.store.database import Pool
from pale_harbor.store.people import people, visits
from pale_harbor.store.people.people import Person
from pale_harbor.work.people.passwords import hashed, matches
from pale_harbor.work.people.tokens import hash_of

_NAME: Final = re.compile(r"[a-z0-9][a-z0-9._@-]{0,62}")
MOST_SHOWN: Final = 100


def checked_names(name: str, shown: str) -> tuple[str, str]:
    """The name to sign in by and the one that others see, as they are kept. Raises BadInput."""
    name, shown = name.strip().lower(), " ".join(shown.split())
    if not _NAME.fullmatch(name):
        raise BadInput(
            f'"{name[:100]}" cannot be a name to sign in by: it has letters from a to z, digits and the signs . _ @ -, '
            "begins with a letter or digit, and has 63 signs at most."
        )
    if not shown or len(shown) > MOST_SHOWN or not shown.isprintable():
        raise BadInput(f"Say how others are to see the name, in {MOST_SHOWN} signs at most.")
    return name, shown


def make_person(pool: Pool, name: str, shown: str, password: str | None, *, keeper: bool) -> Person:
    """Makes a person; the first one has to be a keeper. Raises BadInput.

    password: None where another place says who they are, by this name.
    """
    name, shown = checked_names(name, shown)
    kept = None if password is None else hashed(password, (name, shown))
    with pool.connection() as connection:
        if not keeper and not people.are_there_people(connection):
            raise BadInput("The first person has to be a keeper: somebody has to be able to let others in.")
        return people.add_person(connection, name, shown, kept, keeper=keeper)


def everybody(pool: Pool) -> list[Person]:
    """All people, by name."""
    with pool.connection() as connection:
        return people.all_people(connection)


def change_person(
    pool: Pool,
    name: str,
    *,
    keeper: bool | None = None,
    makes_collections: bool | None = None,
    left: bool | None = None,
) -> Person:
    """Sets what somebody may do here; None leaves it. Whoever left is signed out everywhere. Raises NotFound, BadInput
    where no keeper would be left."""
    with pool.connection() as connection:
        keepers = people.keepers_locked(connection)
        person = people.person_named(connection, name)
        is_keeper = person.keeper if keeper is None else keeper
        is_gone = person.left_at is not None if left is None else left
        if (not is_keeper or is_gone) and keepers == [person.id]:
            raise BadInput(f"{person.shown} is the only keeper who may come in. Make somebody else a keeper first.")
        makes = person.makes_collections if makes_collections is None else makes_collections
        people.change_person(connection, person.id, keeper=is_keeper, makes_collections=makes, left=is_gone)
        if is_gone:
            visits.end_others(connection, person.id, None)
        return people.person_named(connection, name)


def forget_person(pool: Pool, name: str) -> None:
    """Forgets somebody for good. The last keeper may go only as the last person of all: nobody signs in then.

    Raises NotFound, BadInput.
    """
    with pool.connection() as connection:
        keepers = people.keepers_locked(connection)
        person = people.person_named(connection, name)
        if keepers == [person.id] and len(people.all_people(connection)) > 1:
            raise BadInput(f"{person.shown} is the only keeper who may come in. Make somebody else a keeper first.")
        people.forget_person(connection, person)


def set_password(pool: Pool, name: str, password: str) -> None:
    """Gives somebody a new password, and signs them out everywhere. Raises NotFound, BadInput."""
    with pool.connection() as connection:
        person = people.person_named(connection, name)
        people.set_password(connection, person.id, hashed(password, (person.name, person.shown)))
        visits.end_others(connection, person.id, None)
        visits.forget_failures(connection, person.name)


def change_own_password(pool: Pool, name: str, old: str, new: str, token: str | None) -> None:
    """Somebody's own new password; their other browsers and keys are signed out. Raises NotAllowed, BadInput."""
    with pool.connection() as connection:
        kept = people.password_of(connection, name)
    if kept is None or not matches(old, kept[1]):
        raise NotAllowed("The old password is another one.")
    with pool.connection() as connection:
        person = people.person_named(connection, name)
        people.set_password(connection, person.id, hashed(new, (person.name, person.shown)))
        visits.end_others(connection, person.id, None if token is None else hash_of(token))

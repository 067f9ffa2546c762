"""Coming in: by a password, with attempts that are counted; staying, by what the browser shows; going."""

from dataclasses import dataclass
from typing import Final

from pale_harbor.errors import BadInput, NotAllowed, TooManyAttempts
from pale_harbor.store.database import Pool
from pale_harbor.store.delivery.keys import ProgramKey, note_used, program_with
from pale_harbor.store.people import visits
from pale_harbor.store.people.people import are_there_people, password_of
from pale_harbor.store.people.visits import Visit, Visitor
from pale_harbor.work.people.passwords import matches
from pale_harbor.work.people.rights import RIGHTS_OF, Right, Role, least_role
from pale_harbor.work.people.tokens import hash_of, new_token

# A browser that is not seen for so long, or that came in so long ago, has to sign in again.
UNSEEN_DAYS: Final = 14.0
BROWSER_DAYS: Final = 90.0
# So many attempts may fail within these minutes: by one name, and from one address, behind which many may be.
FAILURES_OF_NAME: Final = 10
FAILURES_OF_ADDRESS: Final = 50
COUNTED_MINUTES: Final = 15.0


@dataclass(frozen=True, slots=True)
class Program:
    """A program that has a role in one collection, by a key of its own. person_id: who made the key and whose changes
    its changes are, None where nobody signed in."""

    key_id: int
    collection: str
    collection_id: int
    role: Role
    person_id: int | None


@dataclass(frozen=True, slots=True)
class Guest:
    """Whoever asks for something.

    visitor: who they are, None where they did not sign in. is_keeper_by_place: who is at this machine itself, where
    nobody signs in or by the key that lies there. program: that asks by a key of its own.
    """

    visitor: Visitor | None = None
    is_keeper_by_place: bool = False
    program: Program | None = None

    @property
    def is_somebody(self) -> bool:
        return self.visitor is not None or self.is_keeper_by_place or self.program is not None

    @property
    def acting_person(self) -> int | None:
        """The id of the person whose changes theirs are."""
        if self.program is not None:
            return self.program.person_id
        return None if self.visitor is None else self.visitor.person_id

    @property
    def called(self) -> str | None:
        """What tells them from all others, None for whoever did not sign in."""
        if self.program is not None:
            return f"program {self.program.key_id}"
        return None if self.visitor is None else f"person {self.visitor.person_id}"

    @property
    def collections(self) -> list[int]:
        """The ids of the collections that they may look at; a keeper's are all, and none of them is here."""
        if self.program is not None:
            return [self.program.collection_id]
        return [] if self.visitor is None else self.visitor.collections

    @property
    def is_keeper(self) -> bool:
        return self.is_keeper_by_place or (self.visitor is not None and self.visitor.keeper)

    def role_in(self, collection: str) -> Role | None:
        """Their role in a collection; keepers may do there whatever its owner may."""
        if self.is_keeper:
            return "owner"
        if self.program is not None:
            return self.program.role if self.program.collection == collection else None
        found = None if self.visitor is None else self.visitor.roles.get(collection)
        return next((role for role in RIGHTS_OF if role == found), None)

    def may(self, right: Right, collection: str | None = None) -> bool:
        """Whether they have a right; of one that is about a collection, there."""
        if right is Right.ANYBODY:
            return True
        if not self.is_somebody:
            return False
        if self.is_keeper or right is Right.SIGNED_IN:
            return True
        if self.program is not None and right is Right.BRING:
            return Right.CHANGE in RIGHTS_OF[self.program.role]
        if right is Right.KEEP or (self.visitor is None and self.program is None):
            return False
        if right is Right.MAKE:
            return self.visitor is not None and self.visitor.makes_collections
        if right is Right.BRING and self.visitor is not None:
            return self.visitor.makes_collections or any(
                Right.CHANGE in RIGHTS_OF[role] for role in map(self.role_in, self.visitor.roles) if role
            )
        role = None if collection is None else self.role_in(collection)
        return role is not None and right in RIGHTS_OF[role]

    def sees(self, collection: str) -> bool:
        """Whether they may know that a collection is there."""
        return self.role_in(collection) is not None


HERE: Final = Guest(is_keeper_by_place=True)
NOBODY: Final = Guest()


def refusal(guest: Guest, right: Right, collection: str | None) -> str:
    """Why a right is not given, in words that say who could give it."""
    if not guest.is_somebody:
        return "Sign in first."
    role = least_role(right)
    if right is Right.KEEP:
        return "Only a keeper of this installation may do this."
    if right is Right.MAKE:
        return "You may not make collections here. Ask a keeper of the installation."
    if right is Right.BRING:
        return "Whoever brings something in has to be an engineer of some collection, or be allowed to make one."
    own = None if collection is None else guest.role_in(collection)
    return (
        f'This needs the role "{role}" in "{collection}"; yours is "{own}". Ask an owner of the collection, or a '
        "keeper of the installation."
    )


def are_people_known(pool: Pool) -> bool:
    """Whether everybody signs in here."""
    with pool.connection() as connection:
        return are_there_people(connection)


def come_in(pool: Pool, name: str, password: str, address: str, label: str) -> str:
    """Signs somebody in; returns what their browser is to show from now on.

    address: from where they ask, so that nobody tries on and on. Raises NotAllowed, TooManyAttempts.
    """
    name = name.strip().lower()[:100]
    with pool.connection() as connection:
        by_name, by_address = visits.failures(connection, name, address, COUNTED_MINUTES)
        kept = password_of(connection, name)
    if by_name >= FAILURES_OF_NAME or by_address >= FAILURES_OF_ADDRESS:
        raise TooManyAttempts(
            f"Signing in failed too often lately. Wait {COUNTED_MINUTES:g} minutes, or ask a keeper for a new password."
        )
    is_right = matches(password, None if kept is None else kept[1])
    with pool.connection() as connection:
        if kept is None or not is_right:
            visits.note_failure(connection, name, address)
        else:
            visits.forget_failures(connection, name)
    if kept is None or not is_right:
        raise NotAllowed("This name and this password do not belong together.")
    return stay(pool, kept[0], label)


def stay(pool: Pool, person_id: int, label: str) -> str:
    """A browser is somebody's from now on; returns what it is to show."""
    token = new_token()
    with pool.connection() as connection:
        visits.forget_ended(connection)
        visits.add_visit(connection, hash_of(token), person_id, "browser", label[:200], BROWSER_DAYS)
    return token


def make_key(pool: Pool, person_id: int, label: str, days: float) -> str:
    """A key for a program that acts for somebody; returns it, this once. Raises BadInput."""
    label = label.strip()
    if not label:
        raise BadInput("Say what the key is for: it is known by that later.")
    token = new_token()
    with pool.connection() as connection:
        visits.add_visit(connection, hash_of(token), person_id, "key", label[:200], days)
    return token


def visitor_of(pool: Pool, token: str) -> Visitor | None:
    """Who shows this, None where nobody does, or not any more."""
    with pool.connection() as connection:
        found = visits.visitor_with(connection, hash_of(token), UNSEEN_DAYS)
        if found is not None:
            visits.note_seen(connection, hash_of(token))
        return found


def guest_showing(pool: Pool, token: str) -> Guest | None:
    """Who shows this: somebody, or a program; None where nobody does, or not any more."""
    visitor = visitor_of(pool, token)
    if visitor is not None:
        return Guest(visitor)
    with pool.connection() as connection:
        key = program_with(connection, hash_of(token))
        program = None if key is None else _program_of(key)
        if program is None:
            return None
        note_used(connection, program.key_id)
        return Guest(program=program)


def _program_of(key: ProgramKey) -> Program | None:
    """What a program may do now: as its key says, and no more than whoever made it may by now."""
    allowed = key.role if key.person_id is None or key.keeper else key.own_role
    both = {key.role, allowed}
    least: Role = next(role for role in RIGHTS_OF if both.intersection([role]))
    if key.left or allowed is None or not RIGHTS_OF[least]:
        return None
    return Program(key.id, key.collection, key.collection_id, least, key.person_id)


def guest_named(pool: Pool, name: str) -> Guest:
    """Somebody who gives commands at this machine. Raises NotAllowed where nobody of that name may come in."""
    with pool.connection() as connection:
        found = visits.visitor_named(connection, name)
    if found is None:
        raise NotAllowed(f'There is nobody called "{name[:100]}" who may come in.')
    return Guest(found)


def go(pool: Pool, token: str) -> None:
    """Signs out."""
    with pool.connection() as connection:
        visits.end_visit(connection, hash_of(token))


def end_own(pool: Pool, person_id: int, number: str) -> bool:
    """Signs one of somebody's browsers out, or ends a key; False where it is no more."""
    with pool.connection() as connection:
        return visits.end_numbered(connection, person_id, number)


def own_visits(pool: Pool, person_id: int) -> list[Visit]:
    """Somebody's browsers and keys."""
    with pool.connection() as connection:
        return visits.visits_of(connection, person_id)

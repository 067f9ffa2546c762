"""Whoever asks for the work at hand. Jobs and commands are done by this machine's keeper."""

from collections.abc import Generator
from contextlib import contextmanager
from contextvars import ContextVar

from pale_harbor.errors import NotAllowed, NotFound, NotSignedIn
from pale_harbor.store.people.acting import acting_for
from pale_harbor.work.people.rights import Right
from pale_harbor.work.people.visiting import HERE, Guest, refusal

_ASKING: ContextVar[Guest] = ContextVar("who asks", default=HERE)


def who_asks() -> Guest:
    """Whoever asks for what is done now."""
    return _ASKING.get()


@contextmanager
def asked_by(guest: Guest) -> Generator[None]:
    """What is done within is asked for by this guest, and done for them."""
    before = _ASKING.set(guest)
    try:
        with acting_for(guest.acting_person):
            yield
    finally:
        _ASKING.reset(before)


def need(right: Right, collection: str | None = None) -> None:
    """Sees to it that whoever asks has a right.

    Raises NotSignedIn; NotAllowed; NotFound where they may not even know that the collection is there.
    """
    guest = who_asks()
    if guest.may(right, collection):
        return
    if not guest.is_somebody:
        raise NotSignedIn(refusal(guest, right, collection))
    if collection is not None and not guest.sees(collection):
        raise NotFound(unseen(collection))
    raise NotAllowed(refusal(guest, right, collection))


def unseen(collection: str) -> str:
    """The same words for a collection that is not there and for one that somebody is no member of."""
    return f'There is no collection "{collection[:100]}" here that you are a member of.'

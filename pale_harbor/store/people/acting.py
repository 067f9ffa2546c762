"""For whom the work at hand is done: told to the database with every transaction, which notes it where it is kept."""

from collections.abc import Generator
from contextlib import contextmanager
from contextvars import ContextVar

_ACTING: ContextVar[int | None] = ContextVar("acting person", default=None)


def acting_person() -> int | None:
    """The id of the person for whom this is done, None where nobody signed in."""
    return _ACTING.get()


@contextmanager
def acting_for(person_id: int | None) -> Generator[None]:
    """What is done within is done for this person."""
    before = _ACTING.set(person_id)
    try:
        yield
    finally:
        _ACTING.reset(before)

"""Whether somebody still waits for what is being done: a request whose visitor went away need not be finished."""

from collections.abc import Callable, Generator
from contextlib import contextmanager
from contextvars import ContextVar
from threading import Lock
from typing import Final

from pale_harbor.errors import Cancelled
from pale_harbor.work.running.giving_way import give_way

_BETWEEN_LOOKS_S: Final = 0.05
_STILL: Final[ContextVar[Callable[[], bool] | None]] = ContextVar("still_wanted", default=None)


def still_wanted() -> bool:
    """False once nobody waits any more for what this thread does."""
    still = _STILL.get()
    return still is None or still()


def wanted_by_this_thread() -> Callable[[], bool]:
    """Whether somebody waits for what this thread does, for another thread to look."""
    return _STILL.get() or (lambda: True)


def check_wanted() -> None:
    """Raises Cancelled once nobody waits any more, and gives way to searches. For long work, now and then."""
    give_way()
    if not still_wanted():
        raise Cancelled("Nobody waits for this any more.")


@contextmanager
def held_while_wanted(lock: Lock) -> Generator[None]:
    """Holds a lock, waited for as long as somebody waits for this. Raises Cancelled."""
    while not lock.acquire(timeout=_BETWEEN_LOOKS_S):
        check_wanted()
    try:
        yield
    finally:
        lock.release()


@contextmanager
def wanted_while(still: Callable[[], bool]) -> Generator[None]:
    """What is done within is wanted as long as this says so."""
    token = _STILL.set(still)
    try:
        yield
    finally:
        _STILL.reset(token)

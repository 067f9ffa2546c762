"""How long parts of the work take, for whoever watches: parts have names of the program's, never a user's."""

from collections.abc import Callable, Generator
from contextlib import contextmanager
from threading import Lock
from time import perf_counter
from typing import Final, Literal

# What a search does one after the other, and what is made once and kept.
Work = Literal["search", "build"]
Listener = Callable[[Work, str, float], object]

_LOCK: Final = Lock()
_LISTENERS: Final[list[Listener]] = []


@contextmanager
def timed(work: Work, part: str) -> Generator[None]:
    """Tells whoever listens how long what is done within took, in seconds; nothing where it was broken off.

    >>> heard = []
    >>> end = hear_times(lambda work, part, seconds: heard.append((work, part, seconds >= 0)))
    >>> with timed("search", "reading the query"):
    ...     pass
    >>> end()
    >>> heard
    [('search', 'reading the query', True)]
    """
    started = perf_counter()
    yield
    seconds = perf_counter() - started
    for listener in tuple(_LISTENERS):
        listener(work, part, seconds)


def hear_times(listener: Listener) -> Callable[[], None]:
    """Has somebody hear of every part that is done from now on; returns what ends that."""
    with _LOCK:
        _LISTENERS.append(listener)

    def end() -> None:
        with _LOCK:
            _LISTENERS.remove(listener)

    return end

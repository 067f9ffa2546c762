"""Who goes first: a visitor's search is not to wait for long work that shares the interpreter with it.

Threads of one interpreter take turns, and each turn of long work that falls into a search is felt there. So long work
asks now and then, through `give_way`, whether a search is in hand, and lets it end.
"""

from collections.abc import Generator
from contextlib import contextmanager
from contextvars import ContextVar
from threading import Condition
from typing import Final

# However many searches come one after the other, long work goes on after that long.
LONGEST_S: Final = 0.02

_GOES_FIRST: Final[ContextVar[bool]] = ContextVar("goes_first", default=False)


class _InHand:
    """How much that goes first is in hand."""

    def __init__(self) -> None:
        self.count = 0
        self.changed = Condition()

    def add(self, number: int) -> None:
        with self.changed:
            self.count += number
            if self.count == 0:
                self.changed.notify_all()


IN_HAND: Final = _InHand()


@contextmanager
def going_first() -> Generator[None]:
    """Long work of other threads gives way to what is done within."""
    token = _GOES_FIRST.set(True)
    IN_HAND.add(1)
    try:
        yield
    finally:
        IN_HAND.add(-1)
        _GOES_FIRST.reset(token)


def give_way() -> None:
    """Waits while something that goes first is in hand, `LONGEST_S` at most. For long work, now and then."""
    # Without the lock: whoever comes a moment later is met the next time.
    if IN_HAND.count == 0 or _GOES_FIRST.get():
        return
    with IN_HAND.changed:
        IN_HAND.changed.wait_for(lambda: IN_HAND.count == 0, LONGEST_S)

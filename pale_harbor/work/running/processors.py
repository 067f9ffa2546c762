"""On which processor a server's threads take turns."""

import os
from collections.abc import Iterable
from contextlib import suppress
from pathlib import Path
from typing import Final

from pale_harbor.errors import BadInput

# By so much whatever stands back does it (POSIX nice).
STANDS_BACK_BY: Final = 10
_OF_SESSION: Final = Path("/proc/self/autogroup")
# As it was when this program began: what it begins itself may use all of them.
_ALLOWED: Final = frozenset(os.sched_getaffinity(0))


def allowed_processors() -> frozenset[int]:
    """The processors that this program was given."""
    return _ALLOWED


def hold_on(processor: int) -> None:
    """Has this thread, and all that it begins from now on, run on one processor.

    Threads of one interpreter take turns: on several processors each turn is handed over from one to the other, which
    costs a busy server a third of what it does. Raises BadInput where this program was not given that processor.
    """
    if processor not in _ALLOWED:
        given = ", ".join(map(str, sorted(_ALLOWED)))
        raise BadInput(f"The setting processor is {processor}, and this program was given these processors: {given}.")
    os.sched_setaffinity(0, {processor})


def stand_back() -> None:
    """Lets whatever else needs the processors go first, for good.

    By POSIX nice. Where the system shares processors out by session (autogroup, sched(7)), that counts within a session
    alone: a program that leads its own says it for the whole of it.
    """
    os.nice(STANDS_BACK_BY)
    if os.getsid(0) == os.getpid():
        # Another system has no such file, and another kernel does not take it.
        with suppress(OSError):
            _OF_SESSION.write_text(str(STANDS_BACK_BY))


def use_all(processors: Iterable[int]) -> None:
    """Has this thread, and all that it begins from now on, run on any of these."""
    os.sched_setaffinity(0, set(processors))

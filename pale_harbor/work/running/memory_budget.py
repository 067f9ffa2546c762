"""How much memory requests may take, each and all together: whoever takes too much is ended, and told so.

What a single request takes cannot be read from the system. It is reckoned: what the program has grown by between two
looks is divided among those that were under way.
"""

from collections.abc import Callable, Generator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from threading import Event, Lock
from typing import Final

import psutil
import structlog

from pale_harbor.work.running.background import in_background

_SECONDS_BETWEEN_LOOKS: Final = 0.1
# Of the machine's memory, unless the settings say otherwise: all together, and of that each.
_SHARE_OF_ALL: Final = 0.75
_SHARE_OF_EACH: Final = 0.5
# Where a container is given less than its machine has (control groups, version 2 and 1).
_GIVEN: Final = ("/sys/fs/cgroup/memory.max", "/sys/fs/cgroup/memory/memory.limit_in_bytes")
_MEGABYTE: Final = 1_000_000
_LOOKS_BETWEEN_CHILDREN: Final = 10


@dataclass(eq=False, slots=True)
class Taken:
    """What a request or job is reckoned to have taken. over: why it is ended, None as long as it may go on.

    is_job: a job is not ended: it only bears its part of what is taken, so that no request is blamed for it.
    """

    taken_bytes: float = 0.0
    over: str | None = None
    is_job: bool = False


class MemoryBudget:
    """most_bytes: of the program and what it began, all together; request_bytes: of one request.

    held: how much is held now. short: called, now and then, while there is too little.
    """

    def __init__(
        self,
        most_bytes: int | None = None,
        request_bytes: int | None = None,
        held: Callable[[], int] | None = None,
        short: Callable[[], object] = lambda: None,
    ) -> None:
        self.most_bytes = most_bytes or int(_SHARE_OF_ALL * memory_there())
        self.request_bytes = request_bytes or int(_SHARE_OF_EACH * self.most_bytes)
        self._held = held or HeldByProgram()
        self._short = short
        self._lock, self._ended = Lock(), Event()
        self._taken: list[Taken] = []
        self._before = self._held()
        self._is_short = False

    def start(self) -> None:
        """Looks now and then from here on."""
        in_background("memory", self._look_on_and_on)

    def stop(self) -> None:
        """Looks no more."""
        self._ended.set()

    @contextmanager
    def counted(self, *, is_job: bool = False) -> Generator[Taken]:
        """What is done within counts as one request, or one job."""
        taken = Taken(is_job=is_job)
        with self._lock:
            self._taken.append(taken)
        try:
            yield taken
        finally:
            with self._lock:
                self._taken.remove(taken)

    def refusal(self) -> str | None:
        """Why nothing more is begun now, None where it may be."""
        if not self._is_short:
            return None
        return (
            f"The server holds {_told(self._before)} of memory, and may hold {_told(self.most_bytes)}. Wait until "
            "something of what is under way is done."
        )

    def look(self) -> None:
        """Reckons who has taken what since the last look, and ends whoever took too much."""
        now = self._held()
        with self._lock:
            grown, self._before = now - self._before, now
            for one in self._taken:
                one.taken_bytes = max(0.0, one.taken_bytes + grown / len(self._taken))
                if one.over is None and not one.is_job and one.taken_bytes > self.request_bytes:
                    one.over = (
                        f"This took more than {_told(self.request_bytes)} of memory, and one request may take no more. "
                        "Ask for less at once: fewer records, queries or stages."
                    )
            was_short, self._is_short = self._is_short, now > self.most_bytes
            if self._is_short:
                self._end_the_largest()
        if self._is_short:
            if not was_short:
                structlog.get_logger().warning("memory is short", held_bytes=now, most_bytes=self.most_bytes)
            self._short()

    def _end_the_largest(self) -> None:
        requests = [one for one in self._taken if not one.is_job]
        # One that is being ended already may be what there is too much of.
        if requests and all(one.over is None for one in requests):
            largest = max(requests, key=lambda one: one.taken_bytes)
            largest.over = (
                f"The server came to hold more than {_told(self.most_bytes)} of memory, and this took the most of it. "
                "Ask for less at once, or when less is under way."
            )

    def _look_on_and_on(self) -> None:
        while not self._ended.wait(_SECONDS_BETWEEN_LOOKS):
            # What cannot be seen once is seen the next time.
            with suppress(psutil.Error, OSError):
                self.look()


def memory_there() -> int:
    """Bytes of memory that the machine has, or that this program is given of it."""
    there = [psutil.virtual_memory().total]
    for path in _GIVEN:
        # Where nothing is given, the file is not there or holds a word.
        with suppress(OSError, ValueError):
            there.append(int(Path(path).read_text()))
    return min(there)


class HeldByProgram:
    """Bytes of memory that this program and what it began hold, without files that are mapped: the system lets go of
    these by itself."""

    def __init__(self) -> None:
        self._own = psutil.Process()
        self._children: list[psutil.Process] = []
        self._looks = 0

    def __call__(self) -> int:
        # To find them all processes of the machine are gone through.
        if self._looks % _LOOKS_BETWEEN_CHILDREN == 0:
            self._children = self._own.children(recursive=True)
        self._looks += 1
        held = _own_bytes(self._own)
        for child in self._children:
            with suppress(psutil.NoSuchProcess, psutil.AccessDenied):
                held += _own_bytes(child)
        return held


def _own_bytes(process: psutil.Process) -> int:
    memory = process.memory_info()
    # Where the system does not tell what is shared, all counts.
    return memory.rss - getattr(memory, "shared", 0)


def _told(size: float) -> str:
    return f"{size / _MEGABYTE:,.0f} MB"

"""Things that take long to make and are asked for again and again meanwhile: made once, beside the requests for them.

Whoever asks may wait for it, or be told how far it is. It is made as long as somebody waits or has asked not long ago,
so that a visitor who types on does not begin it anew with every letter, and one who leaves ends it.
"""

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from threading import Event, Lock
from time import monotonic
from typing import Any, Final, TypeVar

from pale_harbor.work.running.background import in_background
from pale_harbor.work.running.wanted import check_wanted, wanted_while

V = TypeVar("V")

# So long after somebody asked last it is still wanted.
WANTED_S: Final = 15.0
_BETWEEN_LOOKS_S: Final = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class UnderWay:
    """How far something is that is being made. doing: what with, in words; done, of: its steps; elapsed_s: since it was
    begun."""

    doing: str
    done: int
    of: int
    elapsed_s: float


# Tells what is done now, how many steps are behind and how many there are.
Told = Callable[[str, int, int], object]


def untold(_doing: str, _done: int, _of: int) -> None:
    """For whoever wants no word of it."""


@dataclass(slots=True)
class _Making:
    began: float = field(default_factory=monotonic)
    asked_last: float = field(default_factory=monotonic)
    waiting: int = 0
    doing: str = ""
    done: int = 0
    of: int = 0
    ended: Event = field(default_factory=Event)
    value: Any = None
    error: Exception | None = None

    def tell(self, doing: str, done: int, of: int) -> None:
        self.doing, self.done, self.of = doing, done, of

    def is_wanted(self) -> bool:
        return self.waiting > 0 or monotonic() < self.asked_last + WANTED_S


class Aside:
    """What is being made, each thing once. Safe to use from several threads."""

    def __init__(self) -> None:
        self._makings: dict[Hashable, _Making] = {}
        self._lock = Lock()

    def made(
        self, name: Hashable, make: Callable[[Told], V], patience_s: float | None, *, to_the_end: bool = False
    ) -> V | UnderWay:
        """What `make` gives, or how far it is after so many seconds; None waits for it as long as it takes.

        Whoever asks while it is made joins in. to_the_end: whether it is made whoever waits. Raises what `make` raises,
        and Cancelled where nobody waits any more.
        """
        with self._lock:
            making = self._makings.get(name)
            if making is None:
                making = self._makings[name] = _Making()
                self._begin(name, making, make, to_the_end=to_the_end)
            making.waiting += 1
        try:
            until = None if patience_s is None else monotonic() + patience_s
            while not making.ended.wait(_until_next_look(until)):
                check_wanted()
                if until is not None and monotonic() >= until:
                    return UnderWay(
                        doing=making.doing,
                        done=making.done,
                        of=making.of,
                        elapsed_s=round(monotonic() - making.began, 1),
                    )
        finally:
            with self._lock:
                making.waiting -= 1
                making.asked_last = monotonic()
        if making.error is not None:
            raise making.error
        return making.value

    def _begin(self, name: Hashable, making: _Making, make: Callable[[Told], object], *, to_the_end: bool) -> None:
        def work() -> None:
            try:
                with wanted_while((lambda: True) if to_the_end else making.is_wanted):
                    making.value = make(making.tell)
            except Exception as error:  # whoever waits is told
                making.error = error
            finally:
                with self._lock:
                    self._makings.pop(name, None)
                making.ended.set()

        in_background("aside", work)


def _until_next_look(until: float | None) -> float:
    return _BETWEEN_LOOKS_S if until is None else max(0.0, min(_BETWEEN_LOOKS_S, until - monotonic()))

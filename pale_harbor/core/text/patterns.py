"""Regular expressions in chains, stopped by time: some need longer than the age of the sea."""

from collections.abc import Callable, Generator, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any, Final

import regex

from pale_harbor.core.text.errors import GreedyPattern, SlowPattern, TiringPattern, WrongArgument
from pale_harbor.core.text.place import Place

LONGEST_PATTERN: Final = 1_000
# For one text. A sound expression needs milliseconds for a long one.
SECONDS_ALLOWED: Final = 1.0
# For all texts of a request or a job together, and for each of them.
SECONDS_IN_ALL: Final = 5.0
SECONDS_EACH: Final = 0.001


@dataclass(frozen=True, slots=True)
class SafePattern:
    """A regular expression that can be searched for; equal where its source is."""

    source: str
    place: Place = field(compare=False)

    def matches(self, text: str) -> list[Any]:
        """The matches in a text, from left to right. Raises StoppedPattern when they take too much."""
        return self._found(text, None)

    def first(self, text: str) -> Any | None:
        """The first match of some letters in a text, None where there is none. Raises StoppedPattern."""
        return next((one for one in self._found(text, 1) if one.start() < one.end()), None)

    def is_in(self, text: str) -> bool:
        """Whether a text has a match, be it of no letters. Raises StoppedPattern."""
        return bool(self._found(text, 0))

    def _found(self, text: str, letters: int | None) -> list[Any]:
        """All matches, or those up to the first one of so many letters at least."""
        spent = _SPENT.get()
        began = 0.0 if spent is None else spent.now()
        try:
            every = _compile(self.source).finditer(text, timeout=SECONDS_ALLOWED)
            found = list(every) if letters is None else _until(every, letters)
        except TimeoutError:
            raise SlowPattern(self.place, self.source, text, SECONDS_ALLOWED) from None
        except (MemoryError, RecursionError):
            raise GreedyPattern(self.place, self.source, text) from None
        if spent is not None:
            spent.add(self, spent.now() - began)
        return found


def _until(matches: Iterator[Any], letters: int) -> list[Any]:
    found: list[Any] = []
    for one in matches:
        found.append(one)
        if one.end() - one.start() >= letters:
            break
    return found


class _Spent:
    """What each pattern took so far of something that is done as one: a request, a job."""

    def __init__(self, now: Callable[[], float]) -> None:
        self.now = now
        self._by_source: dict[str, tuple[float, int]] = {}

    def add(self, pattern: SafePattern, seconds: float) -> None:
        before, count = self._by_source.get(pattern.source, (0.0, 0))
        own = self._by_source[pattern.source] = before + seconds, count + 1
        if own[0] > SECONDS_IN_ALL + SECONDS_EACH * own[1]:
            raise TiringPattern(pattern.place, pattern.source, *own)


_SPENT: Final[ContextVar[_Spent | None]] = ContextVar("spent", default=None)


@contextmanager
def patterns_within_bounds(now: Callable[[], float]) -> Generator[None]:
    """Within it each pattern may take `SECONDS_IN_ALL`, and `SECONDS_EACH` more for every text that it has met.

    now: a clock in seconds.
    """
    token = _SPENT.set(_Spent(now))
    try:
        yield
    finally:
        _SPENT.reset(token)


def safe_pattern(source: str, place: Place) -> SafePattern:
    """The pattern of a source. Raises WrongArgument where it cannot be read."""
    if len(source) > LONGEST_PATTERN:
        raise WrongArgument(place, f"a pattern is at most {LONGEST_PATTERN:,} characters long.", ["/pattern/"])
    try:
        _compile(source)
    except (regex.error, OverflowError, RecursionError) as error:
        at = getattr(error, "pos", None)
        where = f" at its character {at + 1}" if isinstance(at, int) else ""
        reason = getattr(error, "msg", None) or "it is too deep"
        raise WrongArgument(place, f"this pattern cannot be read{where}: {reason}.", ["/pattern/"]) from None
    return SafePattern(source, place)


@lru_cache(maxsize=256)
def _compile(source: str) -> Any:
    return regex.compile(source)

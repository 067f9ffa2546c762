"""Regular expressions in chains, stopped by time: some need longer than the age of the sea."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any, Final

import regex

from pale_harbor.core.text.errors import SlowPattern, WrongArgument
from pale_harbor.core.text.place import Place

LONGEST_PATTERN: Final = 1_000
# For one text. A sound expression needs milliseconds for a long one.
SECONDS_ALLOWED: Final = 1.0


@dataclass(frozen=True, slots=True)
class SafePattern:
    """A regular expression that can be searched for; equal where its source is."""

    source: str
    place: Place = field(compare=False)

    def matches(self, text: str) -> Iterator[Any]:
        """The matches in a text, from left to right. Raises SlowPattern when they take too long."""
        try:
            yield from _compile(self.source).finditer(text, timeout=SECONDS_ALLOWED)
        except TimeoutError:
            raise SlowPattern(self.place, self.source, text, SECONDS_ALLOWED) from None


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

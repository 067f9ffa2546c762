"""Places of a text counted in UTF-16 units, as JavaScript and others count them, for places in code points."""

from collections.abc import Sequence

from pale_harbor.core.stretch import Stretch

_LAST_OF_ONE_UNIT = "\uffff"


def in_utf16(text: str, stretches: Sequence[Stretch]) -> list[Stretch]:
    """Stretches in code points as stretches in UTF-16 units (RFC 2781: two for what lies beyond U+FFFF).

    >>> in_utf16("🐋 bone", [(0, 1), (2, 6)])
    [(0, 2), (3, 7)]
    """
    if text.isascii() or len(text.encode("utf-16-le", "surrogatepass")) == 2 * len(text):
        return list(stretches)
    beyond = _beyond(text)

    def units(place: int) -> int:
        return place + sum(one < place for one in beyond)

    return [(units(start), units(end)) for start, end in stretches]


def from_utf16(text: str, stretches: Sequence[Stretch]) -> list[Stretch]:
    """Stretches in UTF-16 units as stretches in code points; `in_utf16` the other way.

    >>> from_utf16("🐋 bone", [(0, 2), (3, 7)])
    [(0, 1), (2, 6)]
    """
    if text.isascii() or len(text.encode("utf-16-le", "surrogatepass")) == 2 * len(text):
        return list(stretches)
    beyond = [place + number for number, place in enumerate(_beyond(text))]

    def points(unit: int) -> int:
        return unit - sum(one < unit for one in beyond)

    return [(points(start), points(end)) for start, end in stretches]


def _beyond(text: str) -> list[int]:
    """Where letters of two units stand."""
    return [place for place, letter in enumerate(text) if letter > _LAST_OF_ONE_UNIT]

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
    beyond = [place for place, letter in enumerate(text) if letter > _LAST_OF_ONE_UNIT]

    def units(place: int) -> int:
        return place + sum(one < place for one in beyond)

    return [(units(start), units(end)) for start, end in stretches]

"""The places of a text's letters, written: as a file brings them, as they are kept, and how a record refers to them.

The first line names the field that they are of (percent-encoded), the length of its text in code points and a check of
it (CRC-32), then the width and height of the page; each further line is a place: start and end in the text, x, y, width
and height on the page, the number of the line, and the confidence in hundredths or `-`:

    text 10 d5a8c9b1 1000 1500
    0 4 100 200 80 30 0 93
    5 10 190 200 85 30 0 -

A record holds the first line alone, with the SHA-256 of all of it behind: so records stay small, a record that was
changed back has its former places again, and whatever keeps and compares records needs to know nothing of places.
"""

import re
from bisect import bisect_left
from collections.abc import Iterable
from dataclasses import dataclass
from hashlib import sha256
from typing import Final
from urllib.parse import quote, unquote
from zlib import crc32

from pale_harbor.core.pages import Box, PagePlaces, Place
from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.page_read import number_said

_MOST_PLACES: Final = 100_000
_NUMBERS: Final = 8
_SIZE: Final = r"\d{1,7}(?:\.\d{1,2})?"
_HEAD: Final = re.compile(rf"(\S{{1,2000}}) (\d{{1,9}}) ([0-9a-f]{{8}}) ({_SIZE}) ({_SIZE})")
_REFERENCE: Final = re.compile(rf"{_HEAD.pattern} ([0-9a-f]{{64}})")
_LONGEST_REFERENCE: Final = 2_200


@dataclass(frozen=True, slots=True)
class PlacesReference:
    """What a record says of its places. field: that they are of; length, check: of its text; width, height: of the
    page; digest: of the places as they are kept, as hexadecimal digits."""

    field: str
    length: int
    check: str
    width: float
    height: float
    digest: str

    def are_of(self, text: str) -> bool:
        """Whether they are the places of this very text: otherwise they would mark what they do not mean."""
        return (self.length, self.check) == (len(text), _check(text))


def reference_in(value: object) -> PlacesReference | None:
    """What a record's value refers to; None where it is no reference.

    >>> reference_in("text 4 8139fbc0 1000 1500 " + 64 * "0").width
    1000.0
    >>> reference_in("Wind fresh") is None
    True
    """
    if not isinstance(value, str) or not 80 <= len(value) <= _LONGEST_REFERENCE:
        return None
    found = _REFERENCE.fullmatch(value)
    if found is None:
        return None
    field, length, check, width, height, digest = found.groups()
    return PlacesReference(unquote(field), int(length), check, float(width), float(height), digest)


def are_places(value: object) -> bool:
    """Whether a value is places themselves, as `places_text` writes them: by its first line."""
    return isinstance(value, str) and _HEAD.fullmatch(value[:_LONGEST_REFERENCE].split("\n", 1)[0]) is not None


def referred(places: str) -> tuple[str, str]:
    """How a record refers to places that are kept, and their digest.

    >>> reference, digest = referred("text 4 8139fbc0 1000 1500\\n0 4 100 200 80.5 30 0 93")
    >>> reference == f"text 4 8139fbc0 1000 1500 {digest}"
    True
    """
    digest = sha256(places.encode()).hexdigest()
    return f"{places.split(chr(10), 1)[0]} {digest}", digest


def places_text(field: str, text: str, places: PagePlaces) -> str:
    """Places of a field's text, written. Read back, they are the same but for what lies below a hundredth.

    >>> places = PagePlaces(1000, 1500, (Place(0, 4, Box(100, 200, 80.5, 30), 0, 0.93),))
    >>> print(places_text("text", "Wind", places))
    text 4 8139fbc0 1000 1500
    0 4 100 200 80.5 30 0 93
    """
    lines = [f"{quote(field, safe='')} {len(text)} {_check(text)} {_short(places.width)} {_short(places.height)}"]
    for one in places.places:
        box = " ".join(map(_short, (one.box.x, one.box.y, one.box.width, one.box.height)))
        confidence = "-" if one.confidence is None else _short(one.confidence * 100)
        lines.append(f"{one.start} {one.end} {box} {one.line} {confidence}")
    return "\n".join(lines)


def places_in(value: str) -> PagePlaces:
    """Places as `places_text` writes them. Raises BadInput where it is none, with the line.

    >>> places_in("text 4 8139fbc0 1000 1500\\n0 4 100 200 80.5 30 0 93").of(0, 1)[0].box
    Box(x=100.0, y=200.0, width=80.5, height=30.0)
    """
    first, *others = value.split("\n")
    head = _HEAD.fullmatch(first)
    if head is None:
        raise BadInput(
            "line 1: the field, the length of its text, its check, and the page's width and height must stand here."
        )
    if len(others) > _MOST_PLACES:
        raise BadInput(f"there are {len(others):,} places; a page has {_MOST_PLACES:,} at most.")
    _, length, _, width, height = head.groups()
    places: list[Place] = []
    end = 0
    for number, line in enumerate(others, start=2):
        place = _place(line)
        if place is None:
            raise BadInput(f"line {number}: start, end, x, y, width, height, line and confidence must stand here.")
        if not end <= place.start < place.end <= int(length):
            raise BadInput(f"line {number}: places follow one another and lie within the text.")
        end = place.end
        places.append(place)
    return PagePlaces(float(width), float(height), tuple(places))


def places_near(value: str, stretches: Iterable[tuple[int, int]]) -> PagePlaces:
    """Of places as `places_text` writes them those that hold a letter of some stretches; the others are not even read.

    Raises BadInput as `places_in`, for what it reads.

    >>> kept = "text 9 8139fbc0 1000 1500\\n0 4 100 200 80 30 0 93\\n5 9 190 200 80 30 0 -"
    >>> [one.start for one in places_near(kept, [(6, 7)]).places]
    [5]
    """
    head, *others = value.split("\n")
    near: set[int] = set()
    for start, end in stretches:
        at = bisect_left(others, start + 1, key=_end)
        while at < len(others) and _start(others[at]) < end:
            near.add(at)
            at += 1
    return places_in("\n".join([head, *(others[at] for at in sorted(near))]))


def _start(line: str) -> int:
    return _whole(line.partition(" ")[0])


def _end(line: str) -> int:
    return _whole(line.split(" ", 2)[1] if " " in line else "")


def _whole(said: str) -> int:
    """A number that something is looked for by; one that is none is found where it is read."""
    return int(said) if _is_whole(said) else 0


def _place(line: str) -> Place | None:
    said = line.split(" ")
    if len(said) != _NUMBERS or not all(_is_whole(said[at]) for at in (0, 1, 6)):
        return None
    box = _box(said[2:6])
    confidence = None if said[7] == "-" else number_said(said[7])
    if box is None or (confidence is None and said[7] != "-"):
        return None
    return Place(int(said[0]), int(said[1]), box, int(said[6]), None if confidence is None else confidence / 100)


def _box(said: list[str]) -> Box | None:
    x, y, width, height = map(number_said, said)
    if x is None or y is None or width is None or height is None:
        return None
    return Box(x, y, width, height)


def _is_whole(said: str) -> bool:
    return said.isascii() and said.isdecimal() and len(said) <= 9


def _check(text: str) -> str:
    return f"{crc32(text.encode('utf-8', 'surrogatepass')):08x}"


def _short(number: float) -> str:
    whole = int(number)
    return str(whole) if whole == number else f"{number:.2f}".rstrip("0").rstrip(".")

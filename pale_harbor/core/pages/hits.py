"""What a query matched on a page: the boxes to draw, and the words around."""

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from pale_harbor.core.pages.places import PagePlaces
from pale_harbor.core.pages.read_words import Box
from pale_harbor.core.stretch import Stretch

_AROUND: Final = 60


@dataclass(frozen=True, slots=True)
class PageHit:
    """Letters of a page's text that a query matched: start to before end, in code points.

    boxes: of each of their parts, none where nobody knows where they stand. before, after: what stands around them, by
    whole words, on one line.
    """

    start: int
    end: int
    boxes: tuple[Box, ...]
    before: str
    letters: str
    after: str


def hits_on(text: str, places: PagePlaces, stretches: Iterable[Stretch], around: int = _AROUND) -> tuple[PageHit, ...]:
    """What matched, in the order of the text. Stretches between which only blanks stand are one hit: a phrase is.

    stretches: in code points, ascending, none over another. around: letters before and after, as many as make whole
    words.

    >>> from pale_harbor.core.pages.places import Place
    >>> places = PagePlaces(120, 200, (Place(8, 11, Box(9, 5, 30, 9), 0), Place(12, 16, Box(40, 5, 30, 9), 0)))
    >>> [hit] = hits_on("Rang the fog bell", places, [(9, 12), (13, 17)])
    >>> hit.before, hit.letters, len(hit.boxes)
    ('Rang the ', 'fog bell', 2)
    """
    return tuple(
        PageHit(
            start,
            end,
            tuple(place.box for place in places.of(start, end)),
            _last_words(text[max(0, start - 2 * around) : start], around),
            " ".join(text[start:end].split()),
            _first_words(text[end : end + 2 * around], around),
        )
        for start, end in _joined(text, list(stretches))
    )


def _joined(text: str, stretches: list[Stretch]) -> list[Stretch]:
    """Neighbours with nothing between them but blanks as one."""
    if not stretches:
        return []
    firsts = [stretches[0][0]]
    ends: list[int] = []
    for (_, end), (start, _) in pairwise(stretches):
        if text[end:start].strip():
            ends.append(end)
            firsts.append(start)
    return list(zip(firsts, [*ends, stretches[-1][1]], strict=True))


def _last_words(text: str, most: int) -> str:
    """The last words of a text, of about so many letters.

    >>> _last_words("Rang  the fog\\nbell, ", 10)
    'fog bell, '
    """
    plain = _on_one_line(text)
    if len(plain) <= most:
        return plain
    first = plain.find(" ", len(plain) - most - 1)
    return plain[first + 1 :] if 0 <= first < len(plain) - 1 else plain[-most:]


def _first_words(text: str, most: int) -> str:
    """The first words of a text, of about so many letters.

    >>> _first_words(", and the horn", 10)
    ', and the'
    """
    plain = _on_one_line(text)
    if len(plain) <= most:
        return plain
    last = plain.rfind(" ", 0, most + 1)
    return plain[:last] if last > 0 else plain[:most]


def _on_one_line(text: str) -> str:
    words = " ".join(text.split())
    return f"{' ' if text[:1].isspace() else ''}{words}{' ' if words and text[-1:].isspace() else ''}"

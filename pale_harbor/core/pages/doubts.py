"""Words of a page that were perhaps read wrong, and boxes that cannot be right."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from statistics import median
from typing import Final

from pale_harbor.core.pages.places import PagePlaces, Place

# Of less than this nobody is sure.
UNSURE: Final = 0.5
# So many times wider for its letters than most of the page, or so many times narrower; and so for its height.
_FAR: Final = 3.0
# So much of the smaller of two boxes may lie in the other.
_OVERLAP: Final = 0.5
# Of fewer words nobody can tell what is usual.
_FEW: Final = 8


class Doubt(StrEnum):
    """What speaks against a word as it was read, or against its box."""

    UNKNOWN = "unknown"
    UNSURE = "unsure"
    OUTSIDE = "outside the page"
    OVERLAPPING = "over another word"
    WIDE = "too wide for its letters"
    NARROW = "too narrow for its letters"
    HIGH = "too high"
    LOW = "too low"


@dataclass(frozen=True, slots=True)
class DoubtfulWord:
    """A word of a text, start to before end, and what speaks against it."""

    start: int
    end: int
    doubts: tuple[Doubt, ...]


def doubtful_words(
    text: str, words: Sequence[tuple[int, int]], places: PagePlaces, is_known: Callable[[str], bool]
) -> list[DoubtfulWord]:
    """Those of a text's words that are doubtful, in their order.

    words: where they stand. is_known: whether anything else knows a word; of letters alone, since numbers and signs
    are not known.

    >>> from pale_harbor.core.pages.read_words import Box
    >>> wind, fresh = Place(0, 4, Box(0, 0, 40, 9), 0, 0.9), Place(5, 9, Box(90, 0, 40, 9), 0, 0.4)
    >>> (word,) = doubtful_words("Wind frfh", [(0, 4), (5, 9)], PagePlaces(99, 99, (wind, fresh)), "Wind".__eq__)
    >>> word.start, [str(one) for one in word.doubts]
    (5, ['unknown', 'unsure', 'outside the page'])
    """
    odd = odd_boxes(text, places)
    found: list[DoubtfulWord] = []
    at = 0
    for start, end in words:
        # Both are in the order of the letters.
        while at < len(places.places) and places.places[at].end <= start:
            at += 1
        own: list[Place] = []
        for place in places.places[at:]:
            if place.start >= end:
                break
            own.append(place)
        word = text[start:end]
        doubts = [Doubt.UNKNOWN] if word.isalpha() and not is_known(word) else []
        if any(one.confidence is not None and one.confidence < UNSURE for one in own):
            doubts.append(Doubt.UNSURE)
        doubts += dict.fromkeys(doubt for one in own for doubt in odd.get(one.start, ()))
        if doubts:
            found.append(DoubtfulWord(start, end, tuple(doubts)))
    return found


def odd_boxes(text: str, places: PagePlaces) -> dict[int, tuple[Doubt, ...]]:
    """Of places whose boxes cannot be right, what is wrong, by where their letters start.

    Widths and heights are compared with the page's middle ones, from eight words on; signs are of any size.
    """
    found: dict[int, list[Doubt]] = {}
    sized = places.width > 0 and places.height > 0
    for one in places.places:
        if sized and not one.box.lies_within(places.width, places.height):
            found.setdefault(one.start, []).append(Doubt.OUTSIDE)
    for one, other in pairwise(places.places):
        if _overlap(one, other) > _OVERLAP:
            found.setdefault(other.start, []).append(Doubt.OVERLAPPING)
    lettered = [one for one in places.places if text[one.start : one.end].isalnum() and not one.box.is_empty]
    if len(lettered) >= _FEW:
        letter = median(one.box.width / (one.end - one.start) for one in lettered)
        height = median(one.box.height for one in lettered)
        for one in lettered:
            own = one.box.width / (one.end - one.start)
            # One letter may be an i or an m.
            if one.end - one.start > 1:
                _compare(found, one, own / letter, Doubt.WIDE, Doubt.NARROW)
            _compare(found, one, one.box.height / height, Doubt.HIGH, Doubt.LOW)
    return {start: tuple(doubts) for start, doubts in found.items()}


def _compare(found: dict[int, list[Doubt]], place: Place, times: float, more: Doubt, less: Doubt) -> None:
    if times > _FAR:
        found.setdefault(place.start, []).append(more)
    elif times * _FAR < 1:
        found.setdefault(place.start, []).append(less)


def _overlap(one: Place, other: Place) -> float:
    """How much of the smaller box lies in the other, as a share."""
    first, second = one.box, other.box
    across = min(first.x + first.width, second.x + second.width) - max(first.x, second.x)
    down = min(first.y + first.height, second.y + second.height) - max(first.y, second.y)
    smaller = min(first.width * first.height, second.width * second.height)
    return across * down / smaller if across > 0 and down > 0 and smaller > 0 else 0.0

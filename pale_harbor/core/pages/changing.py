"""Places of a text that was changed: what stayed keeps its boxes, and so does a word that was corrected."""

import re
from collections.abc import Sequence
from dataclasses import replace
from difflib import SequenceMatcher
from typing import Final

from pale_harbor.core.pages.places import Place

_WORD: Final = re.compile(r"\S+")


def replaced(places: Sequence[Place], start: int, end: int, count: int) -> tuple[Place, ...]:
    """Places once the letters from `start` to before `end` are so many others.

    Whatever held one of these letters, holds the new ones: several share them out by how many they had. What was put in
    between words is of no box, and boxes without letters are gone.

    >>> from pale_harbor.core.pages.read_words import Box
    >>> light, house = Place(0, 5, Box(90, 10, 30, 9), 0), Place(5, 10, Box(10, 24, 30, 9), 1)
    >>> [(one.start, one.end) for one in replaced((light, house), 5, 10, 4)]
    [(0, 5), (5, 9)]
    """
    touched = [one for one in places if one.start < end and start < one.end]
    if start == end:
        # Letters put into a word are of it; put beside one, they are of none.
        touched = [one for one in places if one.start < start < one.end]
    by = count - (end - start)
    before = [one for one in places if one.end <= start]
    after = [_moved(one, by) for one in places if one.start >= end]
    if not touched:
        return (*before, *after)
    first, last = min(start, touched[0].start), max(end, touched[-1].end)
    return (*before, *_shared_out(touched, first, last - first + by), *after)


def realigned(places: Sequence[Place], before: str, after: str) -> tuple[Place, ...]:
    """Places of the text `before`, for what it was changed to: words are matched (J. Ratcliff and D. Metzener, "Pattern
    matching: the gestalt approach", 1988, as difflib has it), and what stands for others takes their boxes.

    >>> from pale_harbor.core.pages.read_words import Box
    >>> wind, fresh = Place(0, 4, Box(0, 0, 40, 9), 0), Place(5, 10, Box(50, 0, 50, 9), 0)
    >>> [(one.start, one.end) for one in realigned((wind, fresh), "Wind frefh", "The Wind fresh")]
    [(4, 8), (9, 14)]
    """
    old, new = ([(one.start(), one.end()) for one in _WORD.finditer(text)] for text in (before, after))
    said = [before[start:end] for start, end in old], [after[start:end] for start, end in new]
    head = _alike(*said)
    tail = _alike(said[0][head:][::-1], said[1][head:][::-1])
    inner = said[0][head : len(old) - tail], said[1][head : len(new) - tail]
    kept: list[Place] = []
    for start, end in zip(old[:head], new[:head], strict=True):
        kept += _of_word(places, start, end)
    for what, first, last, new_first, new_last in SequenceMatcher(None, *inner, autojunk=False).get_opcodes():
        own, others = old[head:][first:last], new[head:][new_first:new_last]
        if what in ("equal", "replace") and len(own) == len(others):
            for start, end in zip(own, others, strict=True):
                kept += _of_word(places, start, end)
        elif what == "replace":
            kept += _of_word(places, (own[0][0], own[-1][1]), (others[0][0], others[-1][1]))
    for start, end in zip(old[len(old) - tail :], new[len(new) - tail :], strict=True):
        kept += _of_word(places, start, end)
    return tuple(kept)


def _alike(first: Sequence[str], second: Sequence[str]) -> int:
    """How many words two texts begin with alike."""
    for count, (one, other) in enumerate(zip(first, second, strict=False)):
        if one != other:
            return count
    return min(len(first), len(second))


def _of_word(places: Sequence[Place], old: tuple[int, int], new: tuple[int, int]) -> list[Place]:
    """The places of a word that stands elsewhere now, and may be another one."""
    own = [one for one in places if one.start < old[1] and old[0] < one.end]
    if new[1] - new[0] == old[1] - old[0]:
        clipped = [replace(one, start=max(one.start, old[0]), end=min(one.end, old[1])) for one in own]
        return [_moved(one, new[0] - old[0]) for one in clipped]
    return _shared_out(own, new[0], new[1] - new[0])


def _shared_out(places: Sequence[Place], start: int, count: int) -> list[Place]:
    """So many letters from `start` on, shared out among places by how many they had."""
    had = [one.end - one.start for one in places]
    ends = [start + round(count * sum(had[: number + 1]) / sum(had)) for number in range(len(had))]
    begins = [start, *ends[:-1]]
    return [
        replace(one, start=begin, end=end) for one, begin, end in zip(places, begins, ends, strict=True) if begin < end
    ]


def _moved(place: Place, by: int) -> Place:
    return replace(place, start=place.start + by, end=place.end + by)

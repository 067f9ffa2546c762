"""A page as a file tells it: its words in the order of reading, and what is wrong with them."""

from dataclasses import dataclass
from math import isfinite

from pale_harbor.core.pages import Box, ReadWord

# What a reader says of one page: the line of text, from 1, 0 for the page itself, and what is wrong there.
Fault = tuple[int, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class PageRead:
    """name: of the page in its file, "" where it has none. width, height: in its own units, 0 where it is not told.
    picture: the file name of its picture, None where it is not told. language: as the file says it.
    """

    name: str
    width: float
    height: float
    words: tuple[ReadWord, ...]
    picture: str | None
    language: str | None
    faults: tuple[Fault, ...]


def number_said(said: str | None) -> float | None:
    """A number of an attribute; None for none.

    >>> number_said("12.5"), number_said("1e999"), number_said("wide"), number_said(None)
    (12.5, None, None, None)
    """
    try:
        number = float(said or "")
    except ValueError:
        return None
    return number if isfinite(number) else None


def box_fault(box: Box | None, width: float, height: float) -> str | None:
    """What is wrong with a box on a page of that size, in words that follow "the box of … "; None where nothing is.

    width, height: 0 where nobody knows.

    >>> box_fault(Box(0, 0, 10, 4), 100, 100), box_fault(Box(0, 0, 0, 4), 100, 100)
    (None, 'is empty')
    >>> box_fault(Box(95, 0, 10, 4), 100, 100)
    'lies outside the page'
    """
    if box is None:
        return "is missing"
    if box.is_empty:
        return "is empty"
    if width > 0 and height > 0 and not box.lies_within(width, height):
        return "lies outside the page"
    return None

"""Cuts a long text into passages: by sentence, by paragraph, by size, or at a delimiter.

Passages are stretches of the text, so that what is found in one can be marked in the whole.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from typing import Final

from pale_harbor.core.stretch import Stretch
from pale_harbor.core.text.sentence_boundaries import sentence_bounds

_PARAGRAPH_END: Final = re.compile(r"(?:\r\n|\n|\r)[ \t]*(?:\r\n|\n|\r)\s*|\u2029")


class SplitBy(StrEnum):
    """What passages are cut by."""

    SENTENCES = "sentences"
    PARAGRAPHS = "paragraphs"
    SIZE = "size"
    DELIMITER = "delimiter"


@dataclass(frozen=True, slots=True)
class PassageRule:
    """How a text is cut.

    size: with sentences, how many make a passage; with size, how many words. overlap: how many of
    them the next passage has in common, less than size. delimiter: for delimiter only.
    """

    by: SplitBy
    size: int = 1
    overlap: int = 0
    delimiter: str = ""

    def __post_init__(self) -> None:
        if self.size < 1 or not 0 <= self.overlap < self.size:
            raise ValueError("the size must be 1 at least, and the overlap less than the size.")
        if self.by is SplitBy.DELIMITER and not self.delimiter:
            raise ValueError("the delimiter must not be empty.")


def passages(text: str, rule: PassageRule) -> list[Stretch]:
    """Start and end of each passage, in code points; blanks at the ends and empty passages left out.

    >>> passages("Fog came. It stayed. Bells rang.", PassageRule(SplitBy.SENTENCES, size=2, overlap=1))
    [(0, 20), (10, 32)]
    """
    match rule.by:
        case SplitBy.SENTENCES:
            pieces = _trim(text, list(pairwise(sentence_bounds(text))))
        case SplitBy.PARAGRAPHS:
            return _trim(text, _between(text, [match.span() for match in _PARAGRAPH_END.finditer(text)]))
        case SplitBy.SIZE:
            pieces = [match.span() for match in re.finditer(r"\S+", text)]
        case SplitBy.DELIMITER:
            found = [match.span() for match in re.finditer(re.escape(rule.delimiter), text)]
            return _trim(text, _between(text, found))
    return _group(pieces, rule.size, rule.overlap)


def _between(text: str, cuts: Sequence[Stretch]) -> list[Stretch]:
    starts = [0, *(end for _, end in cuts)]
    ends = [*(start for start, _ in cuts), len(text)]
    return list(zip(starts, ends, strict=True))


def _trim(text: str, pieces: Sequence[Stretch]) -> list[Stretch]:
    trimmed: list[Stretch] = []
    for start, end in pieces:
        piece = text[start:end]
        first = start + len(piece) - len(piece.lstrip())
        last = start + len(piece.rstrip())
        if first < last:
            trimmed.append((first, last))
    return trimmed


def _group(pieces: Sequence[Stretch], size: int, overlap: int) -> list[Stretch]:
    """Runs of `size` pieces, each beginning `overlap` pieces before the last one's end."""
    grouped: list[Stretch] = []
    first = 0
    while first < len(pieces):
        group = pieces[first : first + size]
        grouped.append((group[0][0], group[-1][1]))
        if first + size >= len(pieces):
            break
        first += size - overlap
    return grouped

"""Tokens: the pieces of a text that a chain makes, one by one or as columns."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

IntArray = NDArray[np.integer[Any]]


@dataclass(frozen=True, slots=True)
class Token:
    """One piece of a text.

    start, end: code points of the original value, `value[start:end]` is what it came from.
    position: counted in tokens; a dropped token leaves its gap. span: positions covered.
    """

    text: str
    start: int
    end: int
    position: int
    span: int = 1


@dataclass(frozen=True, slots=True)
class TokenTable:
    """The tokens of many texts as columns, in order of text and of position.

    terms: each distinct token text once. All columns have shape (tokens,), int32:
    text_ids: which text; term_ids: which term; starts, ends, positions, spans: as in Token.
    """

    terms: list[str]
    text_ids: IntArray
    term_ids: IntArray
    starts: IntArray
    ends: IntArray
    positions: IntArray
    spans: IntArray

    def tokens_of(self, text_id: int) -> list[Token]:
        """The tokens of one text, as `Chain.run` would give them."""
        first, last = np.searchsorted(self.text_ids, [text_id, text_id + 1])
        columns = (self.term_ids, self.starts, self.ends, self.positions, self.spans)
        rows = zip(*(column[first:last].tolist() for column in columns), strict=True)
        return [Token(self.terms[term], start, end, position, span) for term, start, end, position, span in rows]

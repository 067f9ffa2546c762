"""Tokens: the pieces of a text that a chain makes, one by one or as columns."""

from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from pale_harbor.core.arrays import IntArray


class Token(NamedTuple):
    """One piece of a text. A named tuple: hundreds of thousands are made while an index is built.

    start, end: code points of the original value, `value[start:end]` is what it came from.
    position: counted in tokens; a dropped token leaves its gap. span: positions covered.
    kept: later stages leave it alone. exact: each letter of `text` stands where the same-numbered
    letter of the stretch stands, so that a part of the one is a part of the other.
    """

    text: str
    start: int
    end: int
    position: int
    span: int = 1
    kept: bool = False
    exact: bool = True

    def with_text(self, text: str) -> "Token":
        """The same token with another text."""
        if text == self.text:
            return self
        exact = self.exact and len(text) == len(self.text)
        return Token(text, self.start, self.end, self.position, self.span, self.kept, exact)

    def loosen(self, text: str) -> "Token":
        """The same token with another text, whose letters are no longer those of the stretch."""
        return self._replace(text=text, exact=False)

    def part(self, first: int, last: int) -> "Token":
        """The token of `text[first:last]`, on its own letters where they are known."""
        text = self.text[first:last]
        if self.exact:
            return self._replace(text=text, start=self.start + first, end=self.start + last)
        return self._replace(text=text)


@dataclass(frozen=True, slots=True)
class TokenTable:
    """The tokens of many texts as columns, in order of text and of position.

    distinct: each distinct token once, its place and span left at nothing. All columns have shape
    (tokens,), int32: text_ids: which text; term_ids: which of `distinct`; starts, ends, positions,
    spans: as in Token.
    """

    distinct: list[Token]
    text_ids: IntArray
    term_ids: IntArray
    starts: IntArray
    ends: IntArray
    positions: IntArray
    spans: IntArray

    @property
    def terms(self) -> list[str]:
        """The text of each distinct token; two may share one text and differ in what is kept with it."""
        return [token.text for token in self.distinct]

    def rows(self, chosen: IntArray) -> "tuple[TokenTable, IntArray]":
        """The table of some of its rows, and the rows themselves."""
        columns = (self.text_ids, self.term_ids, self.starts, self.ends, self.positions, self.spans)
        return TokenTable(self.distinct, *(column[chosen] for column in columns)).compact(), chosen

    def compact(self) -> "TokenTable":
        """The same table without the distinct tokens that no row has."""
        used, numbers = np.unique(self.term_ids, return_inverse=True)
        if used.size == len(self.distinct):
            return self
        distinct = [self.distinct[one] for one in used.tolist()]
        return replace(self, distinct=distinct, term_ids=numbers.astype(np.int32))

    def tokens_of(self, text_id: int) -> list[Token]:
        """The tokens of one text, as `Chain.run` would give them."""
        first, last = np.searchsorted(self.text_ids, [text_id, text_id + 1])
        return self.tokens_between(int(first), int(last))

    def tokens_between(self, first: int, last: int) -> list[Token]:
        """The tokens of rows `first` to `last`, the last one left out."""
        columns = (self.term_ids, self.starts, self.ends, self.positions, self.spans)
        rows = zip(*(column[first:last].tolist() for column in columns), strict=True)
        return [
            Token(known.text, start, end, position, span, known.kept, known.exact)
            for term, start, end, position, span in rows
            for known in (self.distinct[term],)
        ]


def told(token: Token) -> Token | str:
    """What tells distinct tokens apart: of nearly all their text alone, which is found far quicker than a token."""
    return token.text if token.exact and not token.kept else prototype(token)


def prototype(token: Token) -> Token:
    """A token without its place; an exact one has a stretch as long as its text."""
    if token.exact and token.start == 0 and token.position == 0 and token.span == 1:
        return token
    return Token(token.text, 0, len(token.text) if token.exact else 0, 0, 1, token.kept, token.exact)

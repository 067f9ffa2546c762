"""The terms of a field in their order, around a term, each with how many records hold it that a key may see."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from heapq import merge
from itertools import groupby

import numpy as np

from pale_harbor.core.arrays import Mask
from pale_harbor.core.fields import FieldColumn, Filter
from pale_harbor.core.index import ReadingIndex
from pale_harbor.core.query.words import literal_chain
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import allowed_records
from pale_harbor.work.running.hurry import Hurry

_OUT_OF_TIME = "terms"


@dataclass(frozen=True, slots=True)
class TermCounted:
    """A term, and how many records hold it."""

    word: str
    records: int


def terms_around(
    opened: OpenCollection,
    field: str,
    filters: Sequence[Filter],
    term: str,
    before: int,
    after: int,
    hurry: Hurry,
    *,
    by_words: bool,
) -> tuple[list[TermCounted], list[TermCounted]]:
    """So many terms before a term, and so many from it on, each in their order. Terms that no record holds which passes
    the filters are passed over.

    by_words: whether a field's terms are its words, in small letters, or its whole values.
    """
    term = _as_read(term) if by_words else term.casefold()
    slabs = [_slab(opened, slab, field, filters, by_words=by_words) for slab in range(len(opened.slabs))]
    upwards = merge(*(_from(slab, number, term) for number, slab in enumerate(slabs)))
    downwards = merge(*(_down_from(slab, number, term) for number, slab in enumerate(slabs)), reverse=True)
    return (
        list(reversed(_counted(slabs, downwards, before, hurry))),
        _counted(slabs, upwards, after, hurry),
    )


# What terms are put in order by, the term, the slab, and its number there.
_Found = tuple[str, str, int, int]


@dataclass(frozen=True, slots=True, eq=False)
class _Words:
    """The words of a field in a slab, by number, in small letters. counts: which records count, None for all."""

    index: ReadingIndex
    counts: Mask | None

    def __len__(self) -> int:
        return len(self.index.vocabulary)

    def term(self, number: int) -> str:
        return self.index.vocabulary.term(number)

    def place(self, number: int) -> str:
        """What it is put in order by."""
        return self.term(number)

    def records(self, number: int) -> int:
        """How many of those that count hold it."""
        holding = self.index.postings_of_number(number).record_ids
        return int(holding.size if self.counts is None else self.counts[holding].sum())


@dataclass(frozen=True, slots=True, eq=False)
class _Values:
    """The values of a field in a slab, by number, whatever their case; order: their numbers in the column so."""

    column: FieldColumn
    order: list[int]
    counts: Mask | None

    def __len__(self) -> int:
        return len(self.order)

    def term(self, number: int) -> str:
        return self.column.texts[self.order[number]]

    def place(self, number: int) -> str:
        """What it is put in order by."""
        return self.term(number).casefold()

    def records(self, number: int) -> int:
        """How many of those that count hold it."""
        places = np.flatnonzero(self.column.codes == self.order[number])
        holding = np.searchsorted(self.column.firsts, places, side="right") - 1
        return int(holding.size if self.counts is None else self.counts[holding].sum())


_Slab = _Words | _Values


def _first_from(slab: _Slab, term: str) -> int:
    """The number of the first term that is this one, or stands behind it."""
    low, high = 0, len(slab)
    while low < high:
        middle = (low + high) // 2
        if slab.place(middle) < term:
            low = middle + 1
        else:
            high = middle
    return low


def _slab(opened: OpenCollection, slab: int, field: str, filters: Sequence[Filter], *, by_words: bool) -> _Slab:
    alive, passing = opened.slabs[slab].alive, allowed_records(opened, slab, filters)
    counts = passing if alive is None else alive if passing is None else passing & alive
    if by_words:
        return _Words(opened.indexes(field, literal_chain())[slab], counts)
    column = opened.column(slab, field)
    texts = column.texts
    return _Values(column, sorted(range(len(texts)), key=lambda number: (texts[number].casefold(), number)), counts)


def _from(slab: _Slab, number: int, term: str) -> Iterator[_Found]:
    return ((slab.place(at), slab.term(at), number, at) for at in range(_first_from(slab, term), len(slab)))


def _down_from(slab: _Slab, number: int, term: str) -> Iterator[_Found]:
    return ((slab.place(at), slab.term(at), number, at) for at in range(_first_from(slab, term) - 1, -1, -1))


def _counted(slabs: Sequence[_Slab], terms: Iterator[_Found], most: int, hurry: Hurry) -> list[TermCounted]:
    found: list[TermCounted] = []
    if most <= 0:
        return found
    for word, own in groupby(terms, key=lambda one: one[1]):
        records = sum(slabs[slab].records(at) for _, _, slab, at in own)
        if records:
            found.append(TermCounted(word, records))
        if len(found) == most or not hurry.has_time_for(_OUT_OF_TIME):
            break
    return found


def _as_read(term: str) -> str:
    """A term as words of the collection are read: its first word, in small letters."""
    tokens = literal_chain().run(term)
    return tokens[0].text if tokens else ""

"""What one reading finds of a query, apart from the others: another chain in one reading leaves it as it is."""

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from typing import Protocol, TypeVar

from pale_harbor.core.ranking.prepared import QueryTerm
from pale_harbor.core.ranking.ranker import Reading


@dataclass(frozen=True, slots=True, eq=False)
class HeldWords:
    """For each leaf of a query the words of it that a reading reads, each with how many records hold it."""

    by_leaf: Sequence[Sequence[tuple[int, int]]]

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory, roughly."""
        return 200 + sum(120 * len(own) for own in self.by_leaf)


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class ReadingFound:
    """All that a reading looks for. reading: as it stood when it was looked up; terms: by slab; bits: of what it looks
    for; passed_over: those of them that are its stop words."""

    reading: Reading
    terms: Sequence[tuple[QueryTerm, ...]]
    bits: int
    passed_over: int

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory, roughly: postings of plain terms are the index's own."""
        found = [term.found for own in self.terms for term in own if term.found is not None]
        made = [one for one in found if one.record_ids.base is None]
        arrays = sum(one.record_ids.nbytes + one.frequencies.nbytes + one.lengths.nbytes for one in made)
        return 500 + 400 * sum(map(len, self.terms)) + arrays


Kept = TypeVar("Kept", HeldWords, ReadingFound)


class Remember(Protocol):
    """Gives what is kept under a key of a collection's records, or makes it."""

    def __call__(self, key: Hashable, make: Callable[[], Kept]) -> Kept:
        """What is kept under the key, or what `make` gives."""
        ...


def made_afresh(key: Hashable, make: Callable[[], Kept]) -> Kept:
    """Keeps nothing."""
    return make()

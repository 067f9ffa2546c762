"""The index of one reading: which records hold a term, how often, and where.

Postings are sorted by record id, so that two terms meet in one pass. Never changed once built.
"""

from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.index.vocabulary import Vocabulary


@dataclass(frozen=True, slots=True, eq=False)
class Postings:
    """Where one term stands: a view into the index.

    record_ids, frequencies, lengths: int32 (records that hold it,); occurrence_firsts: int64 (records + 1,),
    bounds of each record's stretch of the index's `positions`, `starts` and `ends`.
    """

    record_ids: IntArray
    frequencies: IntArray
    lengths: IntArray
    occurrence_firsts: IntArray


@dataclass(frozen=True, slots=True, eq=False)
class ReadingIndex:
    """One field of every record, read through one chain.

    posting_firsts: int64 (terms + 1,); record_ids, frequencies: int32 (postings,);
    posting_lengths: int32 (postings,), the length of each posting's record, so that scoring reads
    postings straight on and need not leap through `lengths`;
    occurrence_firsts: int64 (postings + 1,); positions, starts, ends: int32 (occurrences,), tokens
    and code points of the field's value; lengths: int32 (records,), in tokens, 0 where the field
    is empty. Several values of a field are laid end to end, one code point apart in the offsets
    and VALUE_GAP tokens apart in the positions. spans: int32, how many positions each occurrence
    covers; no element where every one of them covers 1.
    """

    vocabulary: Vocabulary
    posting_firsts: IntArray
    record_ids: IntArray
    frequencies: IntArray
    posting_lengths: IntArray
    occurrence_firsts: IntArray
    positions: IntArray
    starts: IntArray
    ends: IntArray
    spans: IntArray
    lengths: IntArray

    @property
    def record_count(self) -> int:
        """All records of the slab, those without this field included."""
        return self.lengths.size

    @property
    def occurrence_count(self) -> int:
        """How many tokens the field has in all records."""
        return self.positions.size

    @property
    def index_bytes(self) -> int:
        """What the index takes up, in memory and on disk alike."""
        arrays = (getattr(self, field.name) for field in fields(self) if field.name != "vocabulary")
        return sum(a.nbytes for a in arrays) + self.vocabulary.letters.nbytes + self.vocabulary.firsts.nbytes

    def postings(self, term: str) -> Postings | None:
        """The postings of a term, None where no record holds it."""
        number = self.vocabulary.find(term)
        return None if number is None else self.postings_of_number(number)

    def postings_of_number(self, number: int) -> Postings:
        """The postings of the term with this number."""
        first, last = int(self.posting_firsts[number]), int(self.posting_firsts[number + 1])
        return Postings(
            self.record_ids[first:last],
            self.frequencies[first:last],
            self.posting_lengths[first:last],
            self.occurrence_firsts[first : last + 1],
        )

    def occurrences(self) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """Of each occurrence the number of its term and its record: int32 (occurrences,), both."""
        postings = np.diff(self.posting_firsts)
        times = np.diff(self.occurrence_firsts)
        numbers = np.repeat(np.arange(postings.size, dtype=np.int32), postings)
        return np.repeat(numbers, times), np.repeat(np.asarray(self.record_ids, np.int32), times)

    def stretches(self, term: str, record_id: int) -> list[tuple[int, int]]:
        """Where a term stands in a record, as (start, end) code points of the field's value."""
        number = self.vocabulary.find(term)
        return [] if number is None else self.stretches_of_number(number, record_id)

    def stretches_in(self, term: str, record_ids: IntArray) -> list[list[tuple[int, int]]]:
        """Where a term stands in each of some records; nothing where it does not.

        record_ids: (records,), ascending; what comes back is of the same length.
        """
        number = self.vocabulary.find(term)
        if number is None:
            return [[] for _ in range(record_ids.size)]
        postings = self.postings_of_number(number)
        places = np.searchsorted(postings.record_ids, record_ids)
        places[places == postings.record_ids.size] = 0
        held = postings.record_ids[places] == record_ids
        bounds = zip(
            postings.occurrence_firsts[places].tolist(),
            postings.occurrence_firsts[places + 1].tolist(),
            held.tolist(),
            strict=True,
        )
        return [
            list(zip(self.starts[first:last].tolist(), self.ends[first:last].tolist(), strict=True)) if has else []
            for first, last, has in bounds
        ]

    def stretches_of_number(self, number: int, record_id: int) -> list[tuple[int, int]]:
        """Where the term with this number stands in a record."""
        first, last = self._occurrences(number, record_id)
        return list(zip(self.starts[first:last].tolist(), self.ends[first:last].tolist(), strict=True))

    def positions_of(self, term: str, record_id: int) -> list[int]:
        """At which positions a term stands in a record, in the order of `stretches`."""
        number = self.vocabulary.find(term)
        if number is None:
            return []
        first, last = self._occurrences(number, record_id)
        return self.positions[first:last].tolist()

    def _occurrences(self, number: int, record_id: int) -> tuple[int, int]:
        """The bounds of a term's occurrences in a record; an empty stretch where it has none."""
        postings = self.postings_of_number(number)
        at = int(np.searchsorted(postings.record_ids, record_id))
        if at == postings.record_ids.size or postings.record_ids[at] != record_id:
            return 0, 0
        return int(postings.occurrence_firsts[at]), int(postings.occurrence_firsts[at + 1])

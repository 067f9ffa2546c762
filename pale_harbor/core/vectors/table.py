"""A table of vectors: those of a slab's records, each record's side by side, and where each comes from.

A record may have one vector, several (one for each passage), or none.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.vectors.similarity import Similarity


@dataclass(frozen=True, eq=False, kw_only=True)
class VectorTable:
    """vectors: float32 (vectors, dimensions), in order of record; owners: int32 (vectors,), their records.

    places: int32 (vectors, 4): which field of the space, which of its values, start and end within it.
    faulty: int32 (records without a whole set of vectors,); faults: int8, why, as `Fault` says.
    """

    record_count: int
    owners: IntArray
    vectors: NDArray[np.float32]
    places: IntArray
    faulty: IntArray
    faults: IntArray

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory."""
        return sum(one.nbytes for one in (self.owners, self.vectors, self.places, self.faulty, self.faults))

    @property
    def dimensions(self) -> int:
        """How many numbers a vector has."""
        return self.vectors.shape[1]

    @cached_property
    def lengths(self) -> NDArray[np.float64]:
        """float64 (vectors,)."""
        lengths = np.zeros(self.vectors.shape[0])
        # In runs, since float64 of the whole would take twice its room.
        for start in range(0, lengths.size, 65_536):
            some = self.vectors[start : start + 65_536].astype(np.float64)
            lengths[start : start + 65_536] = np.sqrt(np.einsum("ij,ij->i", some, some))
        return lengths

    @cached_property
    def longest(self) -> float:
        """The length of the longest vector."""
        return float(self.lengths.max(initial=0.0))

    @cached_property
    def shares_of_length(self) -> NDArray[np.float32]:
        """1 / length: float32 (vectors,)."""
        return (1 / np.where(self.lengths > 0, self.lengths, 1.0)).astype(np.float32)

    @cached_property
    def squares(self) -> NDArray[np.float32]:
        """The squared length of each vector: float32 (vectors,)."""
        return (self.lengths**2).astype(np.float32)

    @cached_property
    def one_each(self) -> bool:
        """Whether every record has one vector, so that rows are records."""
        return self.owners.size == self.record_count and bool((self.owners == np.arange(self.record_count)).all())

    @cached_property
    def firsts(self) -> IntArray:
        """Where each record's vectors begin: int64 (records + 1,)."""
        return np.searchsorted(self.owners, np.arange(self.record_count + 1)).astype(np.int64)

    def rows_of(self, record_id: int) -> range:
        """The rows of one record: a row for each of its passages."""
        return range(int(self.firsts[record_id]), int(self.firsts[record_id + 1]))

    def make_ready(self, similarity: Similarity) -> None:
        """Works out once what every search asks for."""
        _ = self.firsts, self.one_each, self.longest
        _ = self.shares_of_length if similarity is Similarity.COSINE else self.squares


def vector_table(
    record_count: int,
    dimensions: int,
    owners: Sequence[int],
    vectors: Sequence[NDArray[np.float32]],
    places: Sequence[tuple[int, int, int, int]],
    faulty: Sequence[tuple[int, int]] = (),
) -> VectorTable:
    """A table from blocks of vectors. owners: ascending, one for each row of the blocks.

    vectors: blocks of (rows, dimensions).
    """
    blocks = [np.zeros((0, dimensions), np.float32), *vectors]
    table = VectorTable(
        record_count=record_count,
        owners=np.array(owners, np.int32),
        vectors=np.ascontiguousarray(np.concatenate(blocks), np.float32),
        places=np.array(places, np.int32).reshape(-1, 4),
        faulty=np.array([record for record, _ in faulty], np.int32),
        faults=np.array([fault for _, fault in faulty], np.int8),
    )
    for array in (table.owners, table.vectors, table.places, table.faulty, table.faults):
        array.setflags(write=False)
    return table


def merged_tables(parts: Sequence[tuple[VectorTable, IntArray]], record_count: int) -> VectorTable:
    """One table of several. parts: each with the new id of every old record, −1 where it is left out.

    New ids: int32 (records of the part,).
    """
    owners = np.concatenate([new_ids[table.owners] for table, new_ids in parts])
    faulty = np.concatenate([new_ids[table.faulty] for table, new_ids in parts])
    faults = np.concatenate([table.faults for table, _ in parts])
    order = np.argsort(owners, kind="stable")
    order = order[owners[order] >= 0]
    dimensions = parts[0][0].dimensions
    vectors = np.empty((order.size, dimensions), np.float32)
    start = 0
    for table, _ in parts:
        # Where this part's rows come to stand.
        own = np.flatnonzero((order >= start) & (order < start + table.owners.size))
        vectors[own] = table.vectors[order[own] - start]
        start += table.owners.size
    places = np.concatenate([table.places for table, _ in parts])[order]
    kept = np.argsort(faulty, kind="stable")
    kept = kept[faulty[kept] >= 0]
    merged = VectorTable(
        record_count=record_count,
        owners=owners[order],
        vectors=vectors,
        places=places,
        faulty=faulty[kept],
        faults=faults[kept],
    )
    for array in (merged.owners, merged.vectors, merged.places, merged.faulty, merged.faults):
        array.setflags(write=False)
    return merged

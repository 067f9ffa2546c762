"""Vectors in groups, so that a search compares those of the groups nearest to what is wanted, and no others.

Each vector is told by a byte for each dimension: how far it lies from the middle of its group.

    v ≈ middle + low + step · code

What seems best so is compared once more, exactly: similarities are those of the vectors themselves, and only what was
not looked at can be missing.

Sources: H. Jégou, M. Douze and C. Schmid, "Product quantization for nearest neighbor search", 2011, for inverted lists
and residuals, which are told here by a scalar quantiser; S. Lloyd, "Least squares quantization in PCM", 1982, for the
middles.
"""

from collections.abc import Callable
from dataclasses import dataclass
from math import ceil, sqrt
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import Floats, IntArray, Mask, distinct
from pale_harbor.core.kernels import kernel
from pale_harbor.core.vectors.nearest import Nearest, best_of, nearest
from pale_harbor.core.vectors.similarity import Similarity
from pale_harbor.core.vectors.table import VectorTable

# Fewer vectors are compared sooner than their groups are looked for.
FEWEST_GROUPED: Final = 10_000
SEED: Final = 2011
_MOST_GROUPS: Final = 4_096
_LEARNED_FROM_OF_A_GROUP: Final = 64
_ROUNDS: Final = 8
_ROWS_AT_ONCE: Final = 16_384
_LARGEST_CODE: Final = 255
_LARGEST_SHARE: Final = 32_767
# So many times what is asked for is looked at once more, and so many besides.
_AGAIN_TIMES: Final = 2
_AGAIN_BESIDES: Final = 64
# Middles that were learned from fewer vectors than this share of those that are there are learned anew.
_OUTGROWN: Final = 0.5


@dataclass(frozen=True, eq=False, kw_only=True)
class Groups:
    """The groups of a table's vectors.

    middles: float32 (groups, dimensions); firsts: int64 (groups + 1,), where each group begins; rows: int32 (vectors,),
    the table's rows, group by group; codes: uint8 (vectors, dimensions), in that order; lows, steps: float32
    (dimensions,); learned_from: int64 (1,), how many vectors the middles were learned for; unit: bool (1,), whether
    vectors were brought to length 1 first.
    """

    middles: NDArray[np.float32]
    firsts: IntArray
    rows: IntArray
    codes: NDArray[np.uint8]
    lows: NDArray[np.float32]
    steps: NDArray[np.float32]
    learned_from: IntArray
    unit: NDArray[np.bool_]

    @property
    def count(self) -> int:
        """How many groups there are."""
        return self.middles.shape[0]

    @property
    def size_bytes(self) -> int:
        """What they take up."""
        parts = (self.middles, self.firsts, self.rows, self.codes, self.lows, self.steps)
        return sum(one.nbytes for one in parts)

    def are_outgrown_by(self, vectors: int) -> bool:
        """Whether there are so many vectors now that the middles should be learned anew."""
        return int(self.learned_from[0]) < _OUTGROWN * vectors


@dataclass(frozen=True, slots=True, eq=False)
class NearEnough:
    """What was found. compared: how many vectors were; exact: whether nothing can be missing."""

    found: Nearest
    compared: int
    exact: bool


def groups_for(vectors: int) -> int:
    """How many groups so many vectors are put into: about as many as a group has vectors.

    >>> [groups_for(vectors) for vectors in (1, 10_000, 1_000_000, 100_000_000)]
    [1, 100, 1000, 4096]
    """
    return min(_MOST_GROUPS, max(1, round(sqrt(vectors))))


def grouped(table: VectorTable, similarity: Similarity, on_step: Callable[[], None] = lambda: None) -> Groups:
    """The groups of a table's vectors, the same at every run. Of many vectors the middles are learned from some.

    on_step: called again and again; whatever it raises ends the work.
    """
    unit = similarity is Similarity.COSINE
    count = groups_for(table.owners.size)
    rng = np.random.default_rng(SEED)
    learned_from = min(table.owners.size, _LEARNED_FROM_OF_A_GROUP * count)
    chosen = np.sort(rng.choice(table.owners.size, learned_from, replace=False))
    some = _brought(table, chosen, unit)
    middles = some[rng.choice(learned_from, count, replace=False)].copy()
    for _ in range(_ROUNDS):
        on_step()
        own, _ = _nearest_middles(some, middles)
        middles = _moved(some, own, middles, rng)
    return _in_groups(table, middles, unit, table.owners.size, on_step)


def regrouped(groups: Groups, table: VectorTable, on_step: Callable[[], None] = lambda: None) -> Groups:
    """The groups of another table's vectors around the same middles: as vectors come and go, without learning."""
    return _in_groups(table, groups.middles, bool(groups.unit[0]), int(groups.learned_from[0]), on_step)


def nearest_in_groups(
    table: VectorTable,
    groups: Groups,
    wanted: NDArray[np.float32],
    similarity: Similarity,
    top: int,
    order_of_equals: IntArray,
    share: float,
    allowed: Mask | None = None,
    at_least: float | None = None,
) -> NearEnough:
    """The records nearest to `wanted` among those of the nearest groups.

    share: of the groups, that is looked through, above 0 to 1; more where a filter leaves too few records in them.
    Where it leaves no more than would be compared, all that it leaves are compared. Else as `nearest`.
    """
    length = float(np.sqrt(wanted.astype(np.float64) @ wanted.astype(np.float64)))
    size = table.owners.size
    if not size or top < 1 or (similarity is Similarity.COSINE and length == 0):
        return NearEnough(nearest(table, wanted, similarity, top, order_of_equals, allowed, at_least), 0, exact=True)
    looked_through = ceil(share * groups.count)
    if allowed is not None:
        left = np.flatnonzero(allowed & (np.diff(table.firsts) > 0))
        if left.size * groups.count <= looked_through * table.record_count:
            found = best_of(table, left, wanted, similarity, top, order_of_equals, at_least)
            return NearEnough(found, left.size, exact=True)
    if looked_through >= groups.count:
        found = nearest(table, wanted, similarity, top, order_of_equals, allowed, at_least)
        return NearEnough(found, size, exact=True)
    asked = (wanted / np.float32(length)).astype(np.float32) if bool(groups.unit[0]) else wanted
    order = _groups_in_order(groups, asked, similarity)
    while True:
        rows, alike = _compared(table, groups, asked, similarity, order[:looked_through])
        compared = rows.size
        if allowed is not None:
            held = allowed[table.owners[rows]]
            rows, alike = rows[held], alike[held]
        records = _best_records(table.owners[rows], alike, top)
        if records.size >= top or looked_through >= groups.count:
            break
        looked_through = min(groups.count, 2 * looked_through)
    found = best_of(table, records, wanted, similarity, top, order_of_equals, at_least)
    return NearEnough(found, compared, exact=False)


def _brought(table: VectorTable, rows: IntArray | slice, unit: bool) -> NDArray[np.float32]:
    """Some of a table's vectors, as they are put into groups."""
    vectors = np.asarray(table.vectors[rows], np.float32)
    return vectors * table.shares_of_length[rows][:, None] if unit else vectors


def _nearest_middles(
    vectors: NDArray[np.float32], middles: NDArray[np.float32]
) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
    """By vector which middle is nearest, and how near: greater is nearer."""
    squares = np.einsum("ij,ij->i", middles, middles)
    own = np.empty(vectors.shape[0], np.int32)
    near = np.empty(vectors.shape[0], np.float32)
    for start in range(0, vectors.shape[0], _ROWS_AT_ONCE):
        stop = min(start + _ROWS_AT_ONCE, vectors.shape[0])
        products = vectors[start:stop] @ middles.T
        products *= 2
        products -= squares
        own[start:stop] = products.argmax(axis=1)
        near[start:stop] = products[np.arange(stop - start), own[start:stop]]
    return own, near


def _moved(
    vectors: NDArray[np.float32],
    own: NDArray[np.int32],
    middles: NDArray[np.float32],
    rng: np.random.Generator,
) -> NDArray[np.float32]:
    """Each middle in the midst of its vectors; one that has none where some vector is."""
    order = np.argsort(own, kind="stable")
    counts = np.bincount(own, minlength=middles.shape[0])
    held = np.flatnonzero(counts)
    starts = (np.cumsum(counts) - counts)[held]
    moved = vectors[rng.choice(vectors.shape[0], middles.shape[0])]
    moved[held] = np.add.reduceat(vectors[order], starts, axis=0) / counts[held][:, None]
    return moved.astype(np.float32)


def _in_groups(
    table: VectorTable, middles: NDArray[np.float32], unit: bool, learned_from: int, on_step: Callable[[], None]
) -> Groups:
    size = table.owners.size
    own = np.empty(size, np.int32)
    lows = np.full(table.dimensions, np.inf, np.float32)
    highs = np.full(table.dimensions, -np.inf, np.float32)
    for start in range(0, size, _ROWS_AT_ONCE):
        on_step()
        some = slice(start, min(start + _ROWS_AT_ONCE, size))
        vectors = _brought(table, some, unit)
        own[some], _ = _nearest_middles(vectors, middles)
        apart = vectors - middles[own[some]]
        lows, highs = np.minimum(lows, apart.min(axis=0)), np.maximum(highs, apart.max(axis=0))
    if not size:
        lows = highs = np.zeros(table.dimensions, np.float32)
    steps = ((highs - lows) / _LARGEST_CODE).astype(np.float32)
    divisors = np.where(steps > 0, steps, 1)
    rows = np.argsort(own, kind="stable").astype(np.int32)
    codes = np.empty((size, table.dimensions), np.uint8)
    for start in range(0, size, _ROWS_AT_ONCE):
        on_step()
        some = rows[start : start + _ROWS_AT_ONCE]
        apart = _brought(table, some, unit) - middles[own[some]]
        codes[start : start + _ROWS_AT_ONCE] = np.clip(np.rint((apart - lows) / divisors), 0, _LARGEST_CODE)
    firsts = np.searchsorted(own[rows], np.arange(middles.shape[0] + 1)).astype(np.int64)
    return Groups(
        middles=middles,
        firsts=firsts,
        rows=rows,
        codes=codes,
        lows=lows,
        steps=steps,
        learned_from=np.array([learned_from], np.int64),
        unit=np.array([unit]),
    )


def _groups_in_order(groups: Groups, asked: NDArray[np.float32], similarity: Similarity) -> IntArray:
    """The groups, the nearest first."""
    near = groups.middles @ asked
    if similarity is Similarity.EUCLIDEAN:
        near = 2 * near - np.einsum("ij,ij->i", groups.middles, groups.middles)
    return np.argsort(-near, kind="stable")


def _compared(
    table: VectorTable, groups: Groups, asked: NDArray[np.float32], similarity: Similarity, chosen: IntArray
) -> tuple[IntArray, NDArray[np.float32]]:
    """The rows of some groups, and about how alike each is: a number that grows with similarity."""
    starts, stops = groups.firsts[chosen], groups.firsts[chosen + 1]
    shares = asked * groups.steps
    # In whole numbers, whose sum is the same in whatever order it is made: no machine finds other records.
    largest = min(_LARGEST_SHARE, (2**31 - 1) // (_LARGEST_CODE * table.dimensions))
    unit = np.float32(float(np.abs(shares).max(initial=0.0)) / largest or 1.0)
    bases = (groups.middles[chosen] @ asked + asked @ groups.lows).astype(np.float32)
    count = int((stops - starts).sum())
    rows, alike = np.empty(count, np.int32), np.empty(count, np.float32)
    _compare(
        groups.codes, groups.rows, starts, stops, np.rint(shares / unit).astype(np.int16), bases, unit, rows, alike
    )
    if similarity is Similarity.EUCLIDEAN:
        alike = 2 * alike - table.squares[rows]
    return rows, alike


@kernel
def _compare(
    codes: NDArray[np.uint8],
    rows: IntArray,
    starts: IntArray,
    stops: IntArray,
    shares: NDArray[np.int16],
    bases: Floats,
    unit: np.float32,
    found: IntArray,
    alike: Floats,
) -> None:
    at = 0
    for group in range(starts.size):
        for row in range(starts[group], stops[group]):
            total = np.int32(0)
            for j in range(shares.size):
                total += np.int32(codes[row, j]) * np.int32(shares[j])
            found[at] = rows[row]
            alike[at] = bases[group] + unit * np.float32(total)
            at += 1


@kernel
def _sink(heap: Floats, places: IntArray, root: int) -> None:
    size = heap.size
    while 2 * root + 1 < size:
        child = 2 * root + 1
        if child + 1 < size and heap[child + 1] < heap[child]:
            child += 1
        if heap[root] <= heap[child]:
            return
        heap[root], heap[child] = heap[child], heap[root]
        places[root], places[child] = places[child], places[root]
        root = child


@kernel
def _greatest(alike: Floats, heap: Floats, places: IntArray) -> None:
    """Where the greatest are, the heap's size of them, in no order; of equals the first. heap: as many, to work in."""
    size = heap.size
    for i in range(size):
        heap[i] = alike[i]
        places[i] = i
    for root in range(size // 2 - 1, -1, -1):
        _sink(heap, places, root)
    for i in range(size, alike.size):
        if alike[i] > heap[0]:
            heap[0] = alike[i]
            places[0] = i
            _sink(heap, places, 0)


def _best_records(owners: IntArray, alike: Floats, top: int) -> IntArray:
    """The records of the rows that seem best: enough that the best `top` are likely among them. int64, ascending."""
    again = _AGAIN_TIMES * top + _AGAIN_BESIDES
    while again < owners.size:
        best = np.empty(again, np.int64)
        _greatest(alike, np.empty(again, np.float32), best)
        records = distinct(owners[best])
        # Several of a record's passages may be among the best.
        if records.size >= min(top + _AGAIN_BESIDES, again):
            return records.astype(np.int64)
        again *= 2
    return distinct(owners).astype(np.int64)

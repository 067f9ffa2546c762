"""The records nearest to a vector, found exactly: every vector is compared, at the speed of memory.

First all of them in float32 by one matrix product; then those that could be among the best once more in float64,
term by term. So the list is that of float64, and the same however the records lie in slabs.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import FloatArray, Floats, IntArray
from pale_harbor.core.kernels import kernel
from pale_harbor.core.vectors.similarity import KERNEL_CODES, Similarity, exact_similarities
from pale_harbor.core.vectors.table import VectorTable

_ROUNDING: Final = 2.0**-24


@dataclass(frozen=True, slots=True, eq=False)
class Nearest:
    """Records in order of similarity, the nearest first, each by its nearest vector.

    record_ids: int32 (top,) at most; similarities: float64; rows: int64, which of the table's vectors.
    """

    record_ids: IntArray
    similarities: FloatArray
    rows: IntArray


def nearest(
    table: VectorTable,
    wanted: NDArray[np.float32],
    similarity: Similarity,
    top: int,
    order_of_equals: IntArray,
    allowed: NDArray[np.bool_] | None = None,
    at_least: float | None = None,
) -> Nearest:
    """The `top` records nearest to `wanted`, float32 (dimensions,).

    allowed: bool (records,), which of them may be found, None: all; it is applied before anything is selected.
    at_least: records less alike than this are left out. order_of_equals: int32 (records,), least first. A vector
    of nothing but zeros is near nothing, where only directions are compared.
    """
    length = float(np.sqrt(wanted.astype(np.float64) @ wanted.astype(np.float64)))
    if not table.owners.size or top < 1 or (similarity is Similarity.COSINE and length == 0):
        return _no_records()
    comparable, margin = _comparable(table, wanted, similarity, length)
    by_record = comparable if table.one_each else _best_of_records(comparable, table.firsts)
    if allowed is not None:
        by_record = np.where(allowed, by_record, np.float32(-np.inf))
    least = -np.inf
    if at_least is not None:
        least = _as_comparable(at_least, similarity) - margin
    if top < by_record.size:
        least = max(least, float(np.partition(by_record, by_record.size - top)[by_record.size - top]) - 2 * margin)
    candidates = np.flatnonzero((by_record >= least) & (by_record > -np.inf))
    return best_of(table, candidates, wanted, similarity, top, order_of_equals, at_least)


def best_of(
    table: VectorTable,
    candidates: IntArray,
    wanted: NDArray[np.float32],
    similarity: Similarity,
    top: int,
    order_of_equals: IntArray,
    at_least: float | None,
) -> Nearest:
    """The nearest of some records that have vectors, int64 (candidates,); else as `nearest`. wanted: not zero."""
    if not candidates.size:
        return _no_records()
    length = float(np.sqrt(wanted.astype(np.float64) @ wanted.astype(np.float64)))
    exact, rows = _exact(table, candidates, wanted, similarity, length)
    if at_least is not None:
        near = exact >= at_least
        candidates, exact, rows = candidates[near], exact[near], rows[near]
    order = np.lexsort((order_of_equals[candidates], -exact))[:top]
    return Nearest(candidates[order].astype(np.int32), exact[order], rows[order])


def similarity_of_records(
    table: VectorTable, record_ids: IntArray, wanted: NDArray[np.float32], similarity: Similarity
) -> tuple[FloatArray, IntArray]:
    """How alike some records are, and by which of the table's rows; 0 and −1 where a record has no vector.

    record_ids: (records,); wanted: (dimensions,); both results (records,).
    """
    exact, rows = np.zeros(record_ids.size), np.full(record_ids.size, -1, np.int64)
    length = float(np.sqrt(wanted.astype(np.float64) @ wanted.astype(np.float64)))
    if similarity is Similarity.COSINE and length == 0:
        return exact, rows
    held = np.flatnonzero(table.firsts[record_ids + 1] > table.firsts[record_ids])
    if held.size:
        exact[held], rows[held] = _exact(table, record_ids[held].astype(np.int64), wanted, similarity, length)
    return exact, rows


def _no_records() -> Nearest:
    return Nearest(np.zeros(0, np.int32), np.zeros(0), np.zeros(0, np.int64))


def _comparable(
    table: VectorTable, wanted: NDArray[np.float32], similarity: Similarity, length: float
) -> tuple[NDArray[np.float32], float]:
    """A number that grows with similarity for each vector, float32, and how far rounding may put it off."""
    terms = 4 * (table.dimensions + 4) * _ROUNDING
    match similarity:
        case Similarity.COSINE:
            products: NDArray[np.float32] = table.vectors @ (wanted / np.float32(length)).astype(np.float32)
            products *= table.shares_of_length
            return products, terms
        case Similarity.DOT:
            products = table.vectors @ wanted
            return products, terms * table.longest * length
        case Similarity.EUCLIDEAN:
            products = table.vectors @ wanted
            products *= 2
            products -= table.squares
            products -= np.float32(length * length)
            return products, terms * (table.longest + length) ** 2


def _as_comparable(at_least: float, similarity: Similarity) -> float:
    if similarity is not Similarity.EUCLIDEAN:
        return at_least
    # Nothing is further away than infinity, whose similarity is 0.
    return -((1 / at_least - 1) ** 2) if 0 < at_least <= 1 else (-np.inf if at_least <= 0 else np.inf)


def _exact(
    table: VectorTable, records: IntArray, wanted: NDArray[np.float32], similarity: Similarity, length: float
) -> tuple[FloatArray, IntArray]:
    """The similarity of each record by its nearest vector, and which that is (of equals the first)."""
    firsts, lasts = table.firsts[records], table.firsts[records + 1]
    counts = lasts - firsts
    starts = np.cumsum(counts) - counts
    rows = np.arange(int(counts.sum())) - np.repeat(starts - firsts, counts)
    found = np.empty(rows.size)
    code = KERNEL_CODES[similarity]
    exact_similarities(table.vectors, table.lengths, rows, wanted.astype(np.float64), length, code, found)
    best = np.maximum.reduceat(found, starts)
    # The first row that is as near as the nearest.
    at_best = np.where(found == np.repeat(best, counts), rows, np.iinfo(np.int64).max)
    return best, np.minimum.reduceat(at_best, starts)


@kernel
def _best_of_records(comparable: Floats, firsts: IntArray) -> Floats:
    best = np.full(firsts.size - 1, -np.inf, np.float32)
    for record in range(firsts.size - 1):
        for row in range(firsts[record], firsts[record + 1]):
            best[record] = max(best[record], comparable[row])
    return best

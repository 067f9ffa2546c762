"""From a prepared query to the first records of its ranked list.

The score of a record is Σ weight · (Σ parts of the reading's terms), readings and terms in their
order, so that every path to it gives the same digits. Only postings of the query's terms are
touched, never all records.
"""

# pyright: reportMissingParameterType=false, reportUnknownParameterType=false
# (numba finds the types of kernels itself)

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from pale_harbor.core.ranking.bm25 import term_part_in_kernel
from pale_harbor.core.ranking.prepared import PreparedQuery

IntArray = NDArray[np.integer[Any]]


@dataclass(frozen=True, slots=True, eq=False)
class RankedList:
    """The first records of a list. record_ids: int32, scores: float64, both (top,) at most.

    matched: how many records matched in all, exactly.
    """

    record_ids: IntArray
    scores: NDArray[np.float64]
    matched: int


@dataclass(slots=True, eq=False)
class Workspace:
    """Room for one search at a time over so many records; all zero between searches."""

    record_count: int
    column: NDArray[np.float64] = field(init=False)
    total: NDArray[np.float64] = field(init=False)
    in_column: NDArray[np.int32] = field(init=False)
    in_total: NDArray[np.int32] = field(init=False)

    def __post_init__(self) -> None:
        self.column = np.zeros(self.record_count)
        self.total = np.zeros(self.record_count)
        self.in_column = np.empty(self.record_count, np.int32)
        self.in_total = np.empty(self.record_count, np.int32)


def search(query: PreparedQuery, top: int, order_of_equals: IntArray, workspace: Workspace) -> RankedList:
    """The best `top` records. Equal scores go by `order_of_equals`, shape (records,), least first."""
    matched = 0
    for prepared in query.readings:
        base, slope = prepared.norm
        in_column = 0
        for term, postings in prepared.found_terms():
            in_column = _add_term(
                postings.record_ids,
                postings.frequencies,
                prepared.index.lengths,
                term.factor,
                prepared.reading.k1,
                base,
                slope,
                workspace.column,
                workspace.in_column,
                in_column,
            )
        matched = _add_column(
            workspace.column,
            workspace.in_column[:in_column],
            prepared.reading.weight,
            workspace.total,
            workspace.in_total,
            matched,
        )
    touched = workspace.in_total[:matched]
    record_ids, scores = _select(touched, workspace.total, order_of_equals, min(top, matched))
    _clear(workspace.total, touched)
    return RankedList(record_ids, scores, matched)


@njit(cache=True, nogil=True)
def _add_term(record_ids, frequencies, lengths, factor, k1, base, slope, column, in_column, count):
    """Adds one term's parts to `column` and notes records new to it; returns how many are noted."""
    for i in range(record_ids.size):
        record = record_ids[i]
        part = term_part_in_kernel(factor, frequencies[i], k1, base + slope * lengths[record])
        if column[record] == 0.0:
            in_column[count] = record
            count += 1
        column[record] += part
    return count


@njit(cache=True, nogil=True)
def _add_column(column, in_column, weight, total, in_total, count):
    """Adds a reading's column to the total and empties it; returns how many records are noted."""
    for i in range(in_column.size):
        record = in_column[i]
        if total[record] == 0.0:
            in_total[count] = record
            count += 1
        total[record] += weight * column[record]
        column[record] = 0.0
    return count


@njit(cache=True, nogil=True)
def _clear(total, touched):
    for i in range(touched.size):
        total[touched[i]] = 0.0


@njit(cache=True, nogil=True, inline="always")
def _worse(score_a, order_a, score_b, order_b):
    return score_a < score_b or (score_a == score_b and order_a > order_b)


@njit(cache=True, nogil=True)
def _select(touched, total, order, top):
    """The best `top` of the touched records, best first: a heap with the worst of them at its root."""
    ids = np.empty(top, np.int32)
    scores = np.empty(top, np.float64)
    if top == 0:
        return ids, scores
    size = 0
    for i in range(touched.size):
        record = touched[i]
        score = total[record]
        if size < top:
            at = size
            size += 1
            while at > 0:
                above = (at - 1) >> 1
                if not _worse(score, order[record], scores[above], order[ids[above]]):
                    break
                ids[at], scores[at] = ids[above], scores[above]
                at = above
            ids[at], scores[at] = record, score
        elif score > scores[0] or (score == scores[0] and order[record] < order[ids[0]]):
            _sink(ids, scores, order, size, record, score)
    # Taking the worst off the heap, again and again, leaves the best in front.
    for end in range(size - 1, 0, -1):
        record, score = ids[end], scores[end]
        ids[end], scores[end] = ids[0], scores[0]
        _sink(ids, scores, order, end, record, score)
    return ids, scores


@njit(cache=True, nogil=True, inline="always")
def _sink(ids, scores, order, size, record, score):
    """Puts a record in place of the root of a heap of `size` and lets it sink to where it belongs."""
    at = 0
    while True:
        below = 2 * at + 1
        if below >= size:
            break
        if below + 1 < size and _worse(scores[below + 1], order[ids[below + 1]], scores[below], order[ids[below]]):
            below += 1
        if not _worse(scores[below], order[ids[below]], score, order[record]):
            break
        ids[at], scores[at] = ids[below], scores[below]
        at = below
    ids[at], scores[at] = record, score

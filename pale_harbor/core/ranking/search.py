"""From a prepared query to the first records of its ranked list.

The score of a record is Σ weight · (Σ parts of the reading's terms), readings and terms in their
order, so that every path to it gives the same digits. Only postings of the query's terms are
touched, never all records.

Two ways lead there. A few terms are merged one after the other: their postings are walked in order
of record, and nothing else is looked up. Many terms are accumulated one after the other in an
array over all records, since a merge would look at every term for every record.
"""

# pyright: reportMissingParameterType=false, reportUnknownParameterType=false
# (numba finds the types of kernels itself)

from dataclasses import dataclass, field
from typing import Any, Final

import numpy as np
from numba import njit
from numpy.typing import NDArray

from pale_harbor.core.ranking.bm25 import term_part_in_kernel
from pale_harbor.core.ranking.prepared import PreparedQuery, PreparedReading

IntArray = NDArray[np.integer[Any]]
Scored = tuple[NDArray[np.int32], NDArray[np.float64]]

# From here on accumulating is quicker (measured at a million records).
MOST_MERGED: Final = 12


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
    """Room for accumulating one search at a time over so many records; all zero between searches."""

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


def search(
    query: PreparedQuery,
    top: int,
    order_of_equals: IntArray,
    workspace: Workspace,
    most_merged: int = MOST_MERGED,
) -> RankedList:
    """The best `top` records. Equal scores go by `order_of_equals`, shape (records,), least first."""
    if all(len(prepared.terms) <= most_merged for prepared in query.readings):
        record_ids, scores = _by_merging(query)
    else:
        record_ids, scores = _by_accumulating(query, workspace)
    if query.alive is not None:
        living = query.alive[record_ids]
        record_ids, scores = record_ids[living], scores[living]
    best_ids, best_scores = _select(record_ids, scores, order_of_equals, min(top, record_ids.size))
    return RankedList(best_ids, best_scores, record_ids.size)


def _by_merging(query: PreparedQuery) -> Scored:
    """Every matched record and its score, in order of record."""
    ids, scores = np.empty(0, np.int32), np.empty(0, np.float64)
    for number, prepared in enumerate(query.readings):
        own_ids, own_scores = _merged_terms(prepared)
        weight = prepared.reading.weight
        if number == 0:
            ids, scores = own_ids, weight * own_scores
        elif own_ids.size:
            ids, scores = _merge_readings(ids, scores, own_ids, own_scores, weight)
    return ids, scores


def _merged_terms(prepared: PreparedReading) -> Scored:
    found = prepared.found_terms()
    base, slope = prepared.norm
    firsts = np.array([postings.first for _, postings in found], np.int64)
    lasts = np.array([postings.first + postings.record_ids.size for _, postings in found], np.int64)
    factors = np.array([term.factor for term, _ in found], np.float64)
    index = prepared.index
    return _merge_terms(
        index.record_ids,
        index.frequencies,
        index.posting_lengths,
        firsts,
        lasts,
        factors,
        prepared.reading.k1,
        base,
        slope,
    )


def _by_accumulating(query: PreparedQuery, workspace: Workspace) -> Scored:
    """Every matched record and its score, in no order."""
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
    return workspace.in_total[:matched].copy(), _take(workspace.total, workspace.in_total[:matched])


@njit(cache=True, nogil=True)
def _merge_terms(record_ids, frequencies, posting_lengths, firsts, lasts, factors, k1, base, slope):
    """One reading's scores before its weight: records in order, terms added in the query's order.

    record_ids, frequencies, posting_lengths: the whole index's postings; firsts, lasts: int64
    (terms,), each term's stretch of them; factors: float64 (terms,).
    """
    room = 0
    longest = 0
    for term in range(firsts.size):
        room += lasts[term] - firsts[term]
        longest = max(longest, lasts[term] - firsts[term])
    ids, scores = np.empty(room, np.int32), np.empty(room, np.float64)
    next_ids, next_scores = np.empty(room, np.int32), np.empty(room, np.float64)
    parts = np.empty(longest, np.float64)
    count = 0
    for term in range(firsts.size):
        first, size, factor = firsts[term], lasts[term] - firsts[term], factors[term]
        for i in range(size):
            norm = base + slope * posting_lengths[first + i]
            parts[i] = term_part_in_kernel(factor, frequencies[first + i], k1, norm)
        own_ids = record_ids[first : first + size]
        count = _merge(ids, scores, count, own_ids, parts, size, 1.0, next_ids, next_scores)
        ids, next_ids = next_ids, ids
        scores, next_scores = next_scores, scores
    return ids[:count], scores[:count]


@njit(cache=True, nogil=True)
def _merge_readings(ids, scores, own_ids, own_scores, weight):
    """The sums so far and one more reading's scores, weighted; both in order of record."""
    merged_ids = np.empty(ids.size + own_ids.size, np.int32)
    merged_scores = np.empty(ids.size + own_ids.size, np.float64)
    count = _merge(ids, scores, ids.size, own_ids, own_scores, own_ids.size, weight, merged_ids, merged_scores)
    return merged_ids[:count], merged_scores[:count]


@njit(cache=True, nogil=True, inline="always")
def _merge(ids, scores, size, own_ids, own_scores, own_size, weight, merged_ids, merged_scores):
    """Two lists in order of record become one, scores of the same record added; returns its size.

    Which list goes on next is as good as random: the step is chosen by arithmetic, since a
    processor that guesses at a branch would guess wrong half of the time.
    """
    i = j = count = 0
    while i < size and j < own_size:
        here, there = ids[i], own_ids[j]
        score, own_score = scores[i], weight * own_scores[j]
        goes, own_goes = here <= there, there <= here
        merged_ids[count] = min(here, there)
        merged_scores[count] = (score if goes else 0.0) + (own_score if own_goes else 0.0)
        i += goes
        j += own_goes
        count += 1
    while i < size:
        merged_ids[count] = ids[i]
        merged_scores[count] = scores[i]
        i += 1
        count += 1
    while j < own_size:
        merged_ids[count] = own_ids[j]
        merged_scores[count] = weight * own_scores[j]
        j += 1
        count += 1
    return count


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
def _take(total, touched):
    """The touched records' scores, which are set back to 0."""
    scores = np.empty(touched.size, np.float64)
    for i in range(touched.size):
        scores[i] = total[touched[i]]
        total[touched[i]] = 0.0
    return scores


@njit(cache=True, nogil=True, inline="always")
def _worse(score_a, order_a, score_b, order_b):
    return score_a < score_b or (score_a == score_b and order_a > order_b)


@njit(cache=True, nogil=True)
def _select(all_ids, all_scores, order, top):
    """The best `top` of the records, best first: a heap with the worst of them at its root."""
    ids = np.empty(top, np.int32)
    scores = np.empty(top, np.float64)
    if top == 0:
        return ids, scores
    size = 0
    for i in range(all_ids.size):
        record = all_ids[i]
        score = all_scores[i]
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
